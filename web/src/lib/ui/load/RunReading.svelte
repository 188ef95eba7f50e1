<script lang="ts">
  import { evidenceKindOf } from '$lib/evidence/recorded-kind';
  import { FAULT_WORDS } from '@tromix/core/load/samples';
  import { ruleText } from '@tromix/core/findings/all-rules';
  import { formatCount, formatShare, plural } from '@tromix/core/text/format';
  import { evidenceLink, viewLink } from '$lib/ui/shell/links';
  import type { LoadRunItem } from '$lib/server/queries/load-runs';
  import type { Recording } from '$lib/server/queries/recordings';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { KIND_WORDS, nameOf } from '$lib/ui/recorder/recording-words';
  import type { RunAnswer } from './run-client';
  import { endSentence, perSecond, runSentence, us } from './run-words';

  /** What a run shows, in words, and what its rules found. */
  let { run, answer, recordings }: { run: LoadRunItem; answer: RunAnswer | null; recordings: Recording[] } =
    $props();
  const report = $derived(answer?.report);
  const facts = $derived.by((): [string, string][] => {
    if (!report || report.figures.samples === 0) return [];
    const { law, lateness, fromSending } = report;
    return [
      ['under way on average, L', law.underWay.toFixed(2)],
      ['answers per second, λ', perSecond(law.throughput)],
      ['time each took, W', us(law.timeSeconds * 1e6)],
      ['driver late, p99', us(lateness.p99Us)],
      ...(fromSending
        ? ([
            ['median from sending', us(fromSending.medianUs)],
            ['p99 from sending', us(fromSending.p99Us)]
          ] as [string, string][])
        : [])
    ];
  });
</script>

{#if report}
  <Sentence text={runSentence(report, run.plan)} />
  {#if endSentence(run.state)}<p class="mt-2">{endSentence(run.state)}</p>{/if}
  {#if run.message}<p class="mt-2 text-ink-2">{run.message}</p>{/if}
  {#each report.faults as { fault, count } (fault)}
    {#if fault !== ''}<p class="mt-1 text-alarm">
        {plural(count, 'request')} ({formatShare(count / report.figures.samples)}) failed: {FAULT_WORDS[
          fault
        ]}.
      </p>{/if}
  {/each}
  {#if report.findings.length > 0}<h3 class="mt-3 mb-1 heading">What stands out</h3>{/if}
  {#each report.findings as found, i (i)}
    <Finding title={found.title} severity={found.severity} note={found.remedy}>
      {found.sentence}
      {#snippet actions()}<a class="button" href={viewLink(`/findings/${found.rule}`)}>About this rule</a
        >{#if ruleText(found.rule)?.seeAlso === 'profile'}<a class="button" href={viewLink('/recorder')}
            >Record</a
          >{/if}{/snippet}
    </Finding>
  {/each}
  {#if report.open && report.fromSending}<p class="mt-2 text-ink-2">
      Times count from when each request was to be sent. Counted from the moment of sending, as users who wait
      would, p99 is
      {us(report.fromSending.p99Us)}.
    </p>{/if}
  <h3 class="mt-3 mb-1 heading">Little’s law, and the driver</h3>
  <FactTable {facts} />
  {#if report.statuses.length > 1 || report.statuses.some(({ status }) => status >= 300 || status === 0)}
    <h3 class="mt-3 mb-1 heading">Statuses</h3>
    <FactTable
      facts={report.statuses.map(({ status, count }) => [
        status === 0 ? 'no answer' : String(status),
        formatCount(count)
      ])}
    />
  {/if}
{/if}
{#if recordings.length > 0}
  <h3 class="mt-3 mb-1 heading">Recorded on the way</h3>
  {#each recordings as recording (recording.id)}
    <p>
      {#if recording.evidenceId}<a
          href={evidenceLink({
            kind: evidenceKindOf(recording.kind),
            id: recording.evidenceId
          })}>{KIND_WORDS[recording.kind]} of {nameOf(recording)}</a
        >{:else}{KIND_WORDS[recording.kind]} of {nameOf(recording)}: {recording.message ||
          recording.state}{/if}
    </p>
  {/each}
{/if}
