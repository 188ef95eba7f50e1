<script lang="ts">
  import type { Warning } from '@tromix/core/formats/evidence-error';
  import type { ThreadDump } from '@tromix/core/threads/model';
  import type { WaitsFor } from '@tromix/core/threads/waits-for';
  import { plainText } from '@tromix/core/text/words';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Warnings from '$lib/ui/kit/Warnings.svelte';
  import type { DumpView } from './dump-view.svelte';
  import StackOf from './StackOf.svelte';
  import type { ThreadsState } from './threads-state';

  interface Props {
    view: DumpView;
    dump: ThreadDump;
    waits: WaitsFor;
    /** Thread that is chosen; −1 for none. */
    selected: number;
    /** The address names a thread that this dump does not have. */
    gone: boolean;
    warnings: readonly Warning[];
    hrefOf: (change: Partial<ThreadsState>) => string;
    onselect: (thread: number) => void;
    /** The stack is listed to its outer end. */
    whole: boolean;
  }
  let {
    view,
    dump,
    waits,
    selected,
    gone,
    warnings,
    hrefOf,
    onselect,
    whole = $bindable()
  }: Props = $props();

  /** What a finding says that the reading above it has not said already. */
  function beyondReading(sentence: string): string {
    const said = view.reading.map(plainText).find((one) => sentence.startsWith(one));
    return said ? sentence.slice(said.length).trim() : sentence;
  }
</script>

{#each view.reading as sentence, i (i)}<Sentence text={sentence} />{/each}
{#if selected >= 0 && selected < dump.threads.length}
  {#key selected}<StackOf frames={view.frames} {dump} {waits} thread={selected} {onselect} bind:whole />{/key}
{:else}
  <p class="mt-3 text-ink-3">
    {gone
      ? 'The thread asked for is not in this dump.'
      : 'Choose a thread to see its stack, with the locks it holds and wants.'}
  </p>
{/if}
{#each view.findings as finding, i (i)}
  <Finding title={finding.title} severity={finding.severity}>
    {@const more = beyondReading(finding.sentence)}
    {#if more}<p>{more}</p>{/if}
    <p class="mt-1 text-ink-2">{finding.remedy}</p>
    {#snippet actions()}
      {#if finding.evidence.dump === view.at}
        <button class="button button-solid" onclick={() => onselect(finding.thread)}>Show its stack</button>
      {:else}
        <a
          class="button button-solid"
          href={hrefOf({ dump: finding.evidence.dump + 1, thread: finding.thread })}>Show its stack</a
        >
      {/if}
      <a class="button" href="/findings/{finding.rule}">About this rule</a>
    {/snippet}
  </Finding>
{/each}
{#each dump.notes as note, i (i)}<p class="mt-2 text-[11px] text-ink-3">{note}</p>{/each}
<Warnings {warnings} />
