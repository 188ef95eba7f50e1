<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import type { Finding as RequestFinding } from '@tromix/core/findings/finding';
  import { formatDuration, formatDurationRange } from '@tromix/core/text/format';
  import type { CoveringDump } from '$lib/server/queries/request-page';
  import type { Offer } from '$lib/ui/cases/pins.svelte';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import type { BlindStretches } from './blind-stretches.svelte';
  import { dumpLinks } from './dump-links';
  import { profileLink } from '$lib/ui/profile/profile-link';
  import type { RequestModel } from './request-model';
  import { stretchWords } from '$lib/ui/profile/stretch-samples';

  interface Props {
    model: RequestModel;
    finding: RequestFinding;
    stretches: BlindStretches;
    dumps: readonly CoveringDump[];
    /** How many requests here have the same; '' where that is not known. */
    note: string;
    /** Whether its fix is drawn into the picture; null where it cannot be. */
    previewed: boolean | null;
    onpreview: () => void;
    onshow: () => void;
  }
  let { model, finding, stretches, dumps, note, previewed, onpreview, onshow }: Props = $props();

  const covered = $derived(stretches.coveredBy(finding));
  const isBlind = $derived(stretches.isBlind(finding));
  const samples = $derived(stretches.samplesOf(finding));
  const saved = $derived(
    finding.saving && finding.saving.highNs > 0
      ? formatDurationRange(
          model.request.durationNs - finding.saving.highNs,
          model.request.durationNs - finding.saving.lowNs
        )
      : null
  );
  const offer = (): Offer => ({
    sentence: `${finding.sentence} ${finding.remedy}`,
    figures: [
      { name: 'costs', value: formatDuration(finding.costNs) },
      ...(saved ? [{ name: 'should take', value: saved }] : [])
    ],
    verbatim: finding.evidence.fingerprint ?? '',
    traces: [model.trace.tree.nodes[model.root].span.traceId]
  });
  const recordHref = $derived.by(() => {
    const node = model.byId.get(finding.evidence.spanIds[0]) ?? model.root;
    const { service, pid } = model.trace.tree.nodes[node].span.resource;
    return viewLink('/recorder', {}, { process: service, ...(pid > 0 ? { pid: String(pid) } : {}) });
  });
</script>

<Finding title={finding.title} severity={finding.severity} {note} {offer}>
  {#if finding.evidence.fingerprint}<code class="line-clamp-3 block num break-words"
      >{finding.evidence.fingerprint}</code
    >{/if}
  <p class="mt-1">
    {finding.sentence}
  </p>
  {#if isBlind}<p class={covered ? 'min-h-[54px]' : ''}>
      {samples
        ? stretchWords(samples, formatDuration)
        : covered
          ? stretches.error || 'A profile of this process covers it.'
          : 'No profile of this process covers it.'}
      <Hint of="blindStretch">What is this?</Hint>
    </p>{/if}
  <p class="mt-1" title={finding.assumption}>
    {finding.remedy}
    {#if saved}The request should then take <b class="font-[620]">{saved}</b>.{/if}
  </p>
  {#if saved}<p class="mt-1 text-[11px] text-ink-3">{finding.assumption}</p>{/if}
  {#snippet actions()}
    {#if covered}<a class="button button-solid" href={profileLink(covered)}
        >Open those {formatDuration(covered.toNs - covered.fromNs)} in Profiles</a
      >{:else if isBlind}<a class="button button-solid" href={recordHref}>Record this process now</a>{/if}
    {#each dumpLinks(model, finding, dumps) as link (link.path)}<a
        class="button button-solid"
        href={viewLink(link.path, link.scope, link.extra)}>{link.text}</a
      >{/each}
    {#if previewed !== null}
      <button class="button" aria-pressed={previewed} onclick={onpreview}
        >{previewed ? 'Hide the preview' : 'Preview the fix'}</button
      >
    {/if}
    <button class="button" onclick={onshow}
      >Show {finding.evidence.spanIds.length > 1 ? 'the calls' : 'the span'}</button
    >
  {/snippet}
</Finding>
