<script lang="ts">
  import { mediansOverTime } from '@tromix/core/compare/pictures';
  import { eachSide } from '@tromix/core/sides';
  import { formatBytes, formatDuration, plural } from '@tromix/core/text/format';
  import type { ComparedSides } from '$lib/server/queries/sides/compared-sides';
  import CountersBelow from '$lib/ui/hosts/CountersBelow.svelte';
  import { AXIS } from './side-axis';
  import { SIDE_LOOKS } from './side-looks';
  import SidesLines from './SidesLines.svelte';

  /** The median of each side over its own time, and the memory of its processes where they tell it. */
  let {
    durationsNs,
    startsS,
    windows,
    memory,
    served
  }: Pick<ComparedSides, 'durationsNs' | 'startsS' | 'windows' | 'memory' | 'served'> = $props();
  const lengthS = $derived(eachSide(windows, ({ fromUs, toUs }) => (toUs - fromUs) / 1e6));
  const longestS = $derived(Math.max(lengthS.before, lengthS.after));
  const medians = $derived(
    eachSide(durationsNs, (durations, side) =>
      mediansOverTime(startsS[side], durations, lengthS[side]).map(({ atS, medianNs, requests }) => ({
        atS,
        value: medianNs,
        facts: [
          { name: 'median', value: formatDuration(medianNs) },
          { name: 'of', value: plural(requests, 'request') }
        ]
      }))
    )
  );
  const bytes = $derived(
    eachSide(memory, (list, side) =>
      list.map(({ at, bytes: value }) => ({
        atS: Math.max(0, at / 1000 - windows[side].fromUs / 1e6),
        value,
        facts: [{ name: 'memory', value: formatBytes(value) }]
      }))
    )
  );
</script>

{#if medians.before.length + medians.after.length > 0}
  <SidesLines what="median" points={medians} {longestS} format={formatDuration} file="sides-over-time" />
{:else}<p class="px-4 py-2 text-ink-3">No single requests are kept to draw.</p>{/if}
{#if bytes.before.length > 0 && bytes.after.length > 0}
  <SidesLines what="memory" points={bytes} {longestS} format={formatBytes} file="memory-of-sides" />
{/if}
{#each SIDE_LOOKS as { side, letter } (side)}
  {@const fromMs = windows[side].fromUs / 1000}
  {#if served[side].length > 0}
    <CountersBelow
      of={served[side]}
      name="side {letter}"
      {fromMs}
      toMs={fromMs + longestS * 1000}
      left={AXIS.left}
      right={AXIS.right}
    />
  {/if}
{/each}
