<script lang="ts">
  import { formatBytes, formatShare } from '@tromix/core/text/format';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Warnings from '$lib/ui/kit/Warnings.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import type { HeapClient, HeapOverview } from './heap-client';
  import type { HeapState } from './heap-state';
  import ObjectPanel from './ObjectPanel.svelte';

  interface Props {
    overview: HeapOverview;
    client: HeapClient;
    selected: number;
    /** The allocations of the process, where they were recorded. */
    allocation: string | null;
    hrefOf: (change: Partial<HeapState>) => string;
    onselect: (object: number) => void;
  }
  let { overview, client, selected, allocation, hrefOf, onselect }: Props = $props();
  const { meta, difference, findings } = $derived(overview);

  const matchedWords = $derived(
    difference?.matchedBy === 'object id'
      ? `Objects are matched by object id (${formatShare(difference.known)} were there before).`
      : meta.format === 'hprof'
        ? 'Objects are matched by class and by their place in the tree: a JVM keeps no ids.'
        : 'Objects are matched by class and by their place in the tree: their numbers do not agree, as in dumps of two processes.'
  );
</script>

{#each findings.slice(0, 1) as finding (finding.rule)}<Sentence text={[finding.sentence]} />{:else}
  <p class="mb-2">No single object, field or thread keeps a fifth of these {formatBytes(meta.liveBytes)}.</p>
{/each}
{#if difference}
  <p class="mb-2 text-ink-2">
    Against the earlier dump: {formatBytes(difference.liveBytes.before)} then, {formatBytes(
      difference.liveBytes.after
    )} now.
    {matchedWords}
  </p>
{/if}
{#if selected >= 0}<ObjectPanel {client} object={selected} {onselect} />{/if}
{#each findings as finding, i (i)}
  <Finding title={finding.title} severity={finding.severity}>
    {#if i > 0}<p>{finding.sentence}</p>{/if}
    <p class="mt-1 text-ink-2">{finding.remedy}</p>
    {#snippet actions()}
      {#if finding.evidence.shows === 'new objects' && finding.evidence.className}
        <a
          class="button button-solid"
          href={hrefOf({
            show: 'objects',
            name: finding.evidence.className,
            added: true,
            value: '',
            least: 0
          })}>Show what was added</a
        >
      {:else if finding.evidence.shows === 'duplicate strings'}
        <a class="button button-solid" href={hrefOf({ show: 'strings' })}>Show the strings</a>
      {:else if finding.evidence.object !== null}
        <button class="button button-solid" onclick={() => onselect(finding.evidence.object!)}>Show it</button
        >
      {/if}
      <a class="button" href="/findings/{finding.rule}">About this rule</a>
    {/snippet}
  </Finding>
{/each}
{#if allocation}
  <p class="mt-2 text-ink-2">
    Allocations of this process were recorded too: <a
      class="text-steer underline underline-offset-2"
      href={viewLink(`/profiles/${allocation}`)}>which functions make the objects</a
    >.
  </p>
{/if}
<Warnings warnings={meta.warnings} />
<p class="mt-2 text-[11px] text-ink-3">
  {meta.format === 'hprof'
    ? `Sizes are as a 64-bit machine with compressed references lays objects out; the dump itself records ${formatBytes(meta.recordedBytes)} of content.`
    : 'Sizes are V8’s own.'}
</p>
