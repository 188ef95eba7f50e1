<script lang="ts">
  import { ruleText } from '@tromix/core/findings/all-rules';
  import type { FindingChange } from '@tromix/core/compare/finding-changes';
  import { eachSide, type Sides } from '@tromix/core/sides';
  import { formatCount } from '@tromix/core/text/format';
  import type { Scope } from '$lib/scope';
  import { viewLink } from '$lib/ui/shell/links';
  import PredictionCard from './PredictionCard.svelte';
  import type { HowSure } from '@tromix/core/compare/how-sure';

  /** What became of each finding, with the counts of both sides. */
  interface Props {
    findings: readonly FindingChange[];
    requests: Sides<number>;
    scopes: Sides<Scope>;
    sure: HowSure | null;
    query: string;
    /** Every finding is shown. */
    all: boolean;
    onall: () => void;
  }
  let { findings, requests, scopes, sure, query, all, onall }: Props = $props();
  const gone = $derived(findings.filter(({ state }) => state === 'gone').length);
  const MOST = 6;
  const shown = $derived(all ? findings : findings.slice(0, MOST));
  const WORDS: Record<FindingChange['state'], { sign: string; words: string; colour: string }> = {
    gone: { sign: '✓', words: 'Gone', colour: 'var(--ok)' },
    rarer: { sign: '↓', words: 'Rarer', colour: 'var(--ok)' },
    new: { sign: '+', words: 'New', colour: 'var(--alarm)' },
    'more frequent': { sign: '↑', words: 'More frequent', colour: 'var(--alarm)' },
    'still there': { sign: '=', words: 'Still there', colour: 'var(--pen)' },
    'not told': { sign: '?', words: 'Not told', colour: 'var(--ink-3)' }
  };
  const nameOf = (rule: string): string => {
    const name = ruleText(rule)?.name ?? rule;
    return name[0].toLowerCase() + name.slice(1);
  };
  const counts = ({ found }: FindingChange): string => {
    const [was, is] = [found.before, found.after].map(formatCount);
    const of = eachSide(requests, formatCount);
    return `In ${was} of ${of.before} requests before, in ${is === '0' ? 'none' : is} of ${of.after} now.`;
  };
</script>

{#each shown as change (JSON.stringify([change.rule, change.subject]))}
  {@const look = WORDS[change.state]}
  <section
    class="my-2 rounded-[3px] border border-l-[3px] border-rule bg-paper px-2.5 py-2"
    style:border-left-color={look.colour}
  >
    <h4 class="font-semibold">
      <span aria-hidden="true">{look.sign}</span>
      {look.words}: {nameOf(change.rule)}
    </h4>
    <p class="mt-0.5 line-clamp-2 num text-[11px] break-words text-ink-2" title={change.subject}>
      {change.subject}
    </p>
    <p class="mt-0.5">{counts(change)}</p>
    {#if change.state === 'not told'}<p class="text-[11px] text-ink-3">
        So few may have it by chance on one side alone.
      </p>{/if}
    {#if change.found.after > 0}
      <a class="mt-1 button" href={viewLink('/requests', { ...scopes.after, finding: change.rule })}
        >Requests of B with it</a
      >
    {:else if change.found.before > 0}
      <a class="mt-1 button" href={viewLink('/requests', { ...scopes.before, finding: change.rule })}
        >Requests of A with it</a
      >
    {/if}
  </section>
{/each}
{#if findings.length > shown.length}
  <button class="button" onclick={onall}>{findings.length - shown.length} more</button>
{/if}
<!-- Below them: what was measured is known later, and would push the findings away. -->
{#each shown.filter(({ state }) => state === 'gone') as { rule, subject } (JSON.stringify([rule, subject]))}
  <PredictionCard
    finding={{ rule, subject }}
    title={nameOf(rule)}
    {sure}
    {scopes}
    {query}
    others={gone - 1}
  />
{/each}
