<script lang="ts">
  import { ruleText } from '@tromix/core/findings/all-rules';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { plainText } from '@tromix/core/text/words';
  import type { FoundGroup } from '$lib/server/queries/found-group';
  import type { Offer } from '$lib/ui/cases/pins.svelte';
  import { openCase } from '$lib/ui/cases/open-case';
  import { viewLink } from '$lib/ui/shell/links';
  import Finding from './Finding.svelte';
  import { foundSentence, goneWords } from './found-sentence';
  import OddByCounters from './OddByCounters.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';

  /** A finding over many requests, with the ways on from it. */
  let { finding }: { finding: FoundGroup } = $props();
  const offer = (): Offer => ({
    sentence: [plainText(foundSentence(finding)), finding.growth].filter(Boolean).join(' '),
    figures: [
      { name: 'requests with it', value: formatCount(finding.requests) },
      { name: 'costs in all', value: formatDuration(finding.costNs) },
      { name: 'of the time here', value: formatShare(finding.share) },
      ...(finding.origin ? [{ name: 'line', value: finding.origin }] : [])
    ],
    verbatim: finding.fingerprint,
    traces: finding.example ? [finding.example.traceId] : []
  });
  const place = $derived({ service: finding.service, endpoint: finding.endpoint });
</script>

<Finding
  title={finding.title}
  severity={finding.severity}
  note="{plural(finding.requests, 'request')} · {finding.service}"
  {offer}
>
  <Sentence text={foundSentence(finding)} />
  {#if finding.fingerprint}<code class="line-clamp-2 block num text-ink-2">{finding.fingerprint}</code>{/if}
  {#if finding.growth}<p class="mt-1">{finding.growth}</p>{/if}
  {#if finding.rule === 'one-host' && finding.narrow.host}<OddByCounters host={finding.narrow.host} />{/if}
  {#if finding.gone}<p class="mt-1 text-ink-2">{goneWords(finding.gone)}</p>{/if}
  {#if finding.mark?.back}<p class="mt-1 text-alarm">
      Set aside before (“{finding.mark.reason}”); it came back.
    </p>{/if}
  {#snippet actions()}
    {#if finding.narrow.host || finding.narrow.release}
      <a class="button button-solid" href={viewLink('/endpoint', { ...place, ...finding.narrow })}
        >Look at {finding.narrow.host ?? finding.narrow.release}</a
      >
    {:else if finding.example}
      <a
        class="button button-solid"
        href={viewLink(`/requests/${finding.example.traceId}/${finding.example.spanId}`, place)}
        >Open a typical one</a
      >
    {/if}
    {#if ruleText(finding.rule)?.seeAlso === 'threads'}
      <a class="button" href={viewLink('/threads', { ...finding.narrow, service: finding.service })}
        >Thread dumps of {finding.service}</a
      >
    {/if}
    {#if finding.endpoint && finding.requests > 0}<button
        class="button"
        title="A case with its first draft: figures, requests, cause, line, what it should save"
        onclick={() => void openCase(finding)}>Open a case</button
      >{/if}
    {#if finding.endpoint}<a
        class="button"
        href={viewLink('/compare', place)}
        title="{finding.endpoint}: before and after">Compare</a
      >{/if}
    <a class="button" href={viewLink(`/findings/${finding.rule}`)} title="What this rule looks for"
      >About this rule</a
    >
  {/snippet}
</Finding>
