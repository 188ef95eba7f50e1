<script lang="ts">
  import { NO_RELEASE } from '@tromix/core/trace/resource';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { Replay } from '@tromix/core/trace/replay';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { Finding } from '@tromix/core/findings/finding';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { afterPaint } from '$lib/ui/kit/after-paint';
  import { exactTime } from '$lib/ui/kit/time';
  import { viewLink, whyLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { combKey } from '@tromix/core/trace/rows';
  import { failedAt } from '$lib/ui/request/failed-at';
  import { findingsOf, modelOf, type RequestModel } from '$lib/ui/request/request-model';
  import { explainedWords, requestReading } from '$lib/ui/request/request-reading';
  import { dumpsDuring } from '$lib/ui/request/dumps-during';
  import { BlindStretches } from '$lib/ui/request/blind-stretches.svelte';
  import { requestOffer } from '$lib/ui/request/request-offer';
  import { requestExports } from '$lib/ui/request/request-exports';
  import RequestFinding from '$lib/ui/request/RequestFinding.svelte';
  import RequestLedger from '$lib/ui/request/RequestLedger.svelte';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import Warnings from '$lib/ui/kit/Warnings.svelte';
  import SpanFacts from '$lib/ui/request/SpanFacts.svelte';
  import Beside from '$lib/ui/request/Beside.svelte';
  import ByCallGroup from '$lib/ui/request/ByCallGroup.svelte';
  import ByService from '$lib/ui/request/ByService.svelte';
  import { ticketText } from '$lib/ui/request/ticket-text';
  import { CountersMeanwhile } from '$lib/ui/request/counters-meanwhile.svelte';
  import Meanwhile from '$lib/ui/request/Meanwhile.svelte';
  import AskedByPages from '$lib/ui/pages/AskedByPages.svelte';
  import RequestLog from '$lib/ui/request/RequestLog.svelte';
  import Timeline from '$lib/ui/request/Timeline.svelte';
  import {
    notedFolds,
    REQUEST_PARAMS,
    TABS,
    type Folds,
    type RequestState
  } from '$lib/ui/request/request-state';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import { plainColour } from '$lib/ui/chart/theme';
  import { scopeWindow } from '$lib/scope';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  /** Spans up to which the rules are quicker than a picture. */
  const FINDINGS_AT_ONCE = 500;
  screenKeys([
    { keys: '↑ ↓', does: 'choose a row' },
    { keys: '← →', does: 'fold, unfold' },
    { keys: '+ −', does: 'unfold everything, fold the combs again' },
    { keys: 'y', does: 'why requests like it are slow', run: () => void goto(why) }
  ]);

  const model = $derived(modelOf(data.request));
  let late = $state.raw<{ of: RequestModel; findings: Finding[] } | null>(null);
  /** Of a large request they come after its picture: until then null. */
  const findings = $derived(
    model.nodes.length <= FINDINGS_AT_ONCE ? findingsOf(model) : late?.of === model ? late.findings : null
  );
  $effect(() => {
    const of = model;
    if (of.nodes.length > FINDINGS_AT_ONCE)
      return afterPaint(() => {
        late = { of, findings: findingsOf(of) };
      });
  });
  const request = $derived(model.request);
  const span = $derived(model.trace.tree.nodes[model.root].span);
  /** Slow requests of its endpoint against normal ones. */
  const why = $derived(whyLink({ service: span.resource.service, endpoint: request.endpoint }));
  pinnable(() =>
    requestOffer(data.request, request, stretches.explainedNs, timeline?.picture(plainColour) ?? '')
  );
  const failedHere = $derived(failedAt(model));
  const warnings = $derived(model.trace.tree.warnings);
  const address = urlState(REQUEST_PARAMS, () => ({ row: chosen, alike, ...notedFolds(folds) }));
  const { shown } = $derived(address);
  /** As the address says, until rows of this very request are folded. */
  let folds: Folds = $derived((void model, shown));
  let chosen: string = $derived(shown.row);
  let alike: boolean = $derived(shown.alike);
  const choose = (row: string): void => {
    chosen = row;
    address.note({ row });
  };
  noteChosen(address);
  /** Who selects a span wants to see what it is: its facts stand below the findings. */
  const revealFacts = (): void =>
    void requestAnimationFrame(() =>
      document.getElementById('selected-facts')?.scrollIntoView({ block: 'start' })
    );
  /** What the costliest finding is about is selected at first. */
  const first = $derived.by(() => {
    const [finding] = findings ?? [];
    if (!finding) return span.spanId;
    const nodes = finding.evidence.spanIds.map((id) => model.byId.get(id)!);
    return nodes.length > 1 ? combKey(model.trace.tree, nodes) : finding.evidence.spanIds[0];
  });
  let selected = $derived(chosen || first);
  const nodes = $derived.by(() => {
    const node = model.byId.get(selected);
    return model.combs.get(selected) ?? [node ?? model.root];
  });

  const stretches = new BlindStretches({
    get model() {
      return model;
    },
    get findings() {
      return findings;
    },
    get profiles() {
      return data.request.profiles;
    }
  });
  const counters = new CountersMeanwhile(() => model);
  const sameNote = (finding: Finding): string => {
    const same = data.request.same.find(
      ({ rule, subject }) => rule === finding.rule && subject === finding.subject
    );
    return same
      ? `${formatCount(same.requests)} of ${formatCount(same.ofRequests)} requests here do the same`
      : '';
  };
  const show = (finding: Finding): void => {
    const ids = finding.evidence.spanIds;
    const at = ids.map((id) => model.byId.get(id)!);
    choose(at.length > 1 ? combKey(model.trace.tree, at) : ids[0]);
  };
  const neighbour = (path: string): string => viewLink(`/requests/${path}`);
  const window = $derived(scopeWindow(data.scope, data.nowMs));

  /** What it is held beside: the one that the address names, else a normal one of its endpoint. */
  const other = $derived.by(() => {
    return /^[0-9a-f]{32}\/[0-9a-f]{16}$/.test(shown.before)
      ? { path: shown.before, isNormal: false }
      : data.request.normal
        ? { path: data.request.normal, isNormal: true }
        : null;
  });
  const TAB_NAMES = $derived<Record<RequestState['tab'], string>>({
    timeline: 'timeline',
    calls: 'by call group',
    services: 'by service',
    beside: other && !other.isNormal ? 'beside the other' : 'beside a normal one'
  });
  const tab = $derived(shown.tab === 'beside' && !other ? 'timeline' : shown.tab);
  const tabs = $derived(
    TABS.filter((key) => key !== 'beside' || other).map((key) => ({
      key,
      name: TAB_NAMES[key],
      href: address.href({ tab: key })
    }))
  );
  // Raw: a finding is known by itself, not by its content.
  let previewed = $state.raw<Finding | null>(null);
  const whatIf = $derived.by(() => {
    const edit = previewed && findings?.includes(previewed) ? previewed.edit : undefined;
    return previewed && edit && edit.size > 0
      ? {
          title: previewed.title,
          times: new Replay(model.trace.tree, model.root, () => model.nodes).times(edit)
        }
      : null;
  });

  let timeline = $state<ReturnType<typeof Timeline> | null>(null);
  const exports = $derived(
    requestExports({
      traceId: data.request.traceId,
      spanId: data.request.spanId,
      ticket: () => ticketText(model, findings ?? findingsOf(model), page.url.href, stretches.explainedNs),
      picture: tab === 'timeline' ? (colourOf) => timeline?.picture(colourOf) ?? '' : null
    })
  );
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      which={['endpoint', 'service', 'host', 'release', 'time', 'run']}
      {window}
      about={{
        endpoint: data.scope.endpoint || request.endpoint,
        service: data.scope.service || span.resource.service
      }}
    />
  {/snippet}
  {#snippet reading()}
    {#if failedHere}
      <p class="mb-2" data-testid="failed-at">
        It failed of <b class="font-[620] text-alarm">{failedHere.what}</b> in
        <button class="underline" onclick={() => choose(failedHere.spanId)}>{failedHere.span}</button> of {failedHere.service}.
      </p>
    {/if}
    {#if findings}
      {#each requestReading(model, findings, 0, failedHere !== null) as sentence, i (i)}<Sentence
          text={sentence}
        />{/each}
    {/if}
    {#if stretches.isCovered}<p class="min-h-[36px]" data-testid="explained">
        {#if stretches.explainedNs > 0}<b class="font-[620]">{explainedWords(stretches.explainedNs)}</b>: the
          process computed.{:else}{stretches.error || 'A profile covers time that no span does.'}{/if}
      </p>{/if}
    <AskedByPages loads={data.request.askedBy} />
    {#each findings ?? [] as finding, i (i)}
      <RequestFinding
        {model}
        {finding}
        {stretches}
        dumps={data.request.dumps}
        note={sameNote(finding)}
        previewed={(finding.edit?.size ?? 0) > 0 && tab === 'timeline' ? previewed === finding : null}
        onpreview={() => (previewed = previewed === finding ? null : finding)}
        onshow={() => show(finding)}
      />
    {:else}
      <p class="text-ink-3" role="status">
        {findings ? 'No rule found anything in this request.' : 'Applying the rules…'}
      </p>
    {/each}
    {#each dumpsDuring(model, data.request.dumps) as { dump, threads, lockNs } (dump.id)}
      <p class="my-2">
        A thread dump of <b class="font-[620]">{dump.service || 'this process'}</b> was taken while this ran{lockNs >
        0
          ? `, which waited ${formatDuration(lockNs)} for locks`
          : ''}:
        {#each threads as name, i (i)}<a
            class="mr-1.5 button"
            href={viewLink(`/threads/${dump.id}`, {}, { named: name })}>{name} in the dump</a
          >{:else}<a class="button" href={viewLink(`/threads/${dump.id}`)}>Who blocked whom</a>{/each}
      </p>
    {/each}
    <Warnings {warnings} />
    {#if findings}<SpanFacts
        {model}
        {nodes}
        profiles={data.request.profiles}
        logs={data.request.logs}
        hasSources={data.request.hasSources}
      />{/if}
    <Meanwhile {counters} />
  {/snippet}

  <div class="flex items-baseline gap-3 px-4 pt-3 pb-2 whitespace-nowrap">
    <h1 class="font-mono text-[18px] font-semibold">{formatDuration(request.durationNs)}</h1>
    <span class="truncate text-ink-2">
      {#if request.failed}<b class="mr-1 text-alarm">✕ failed</b>{/if}at {exactTime(model.startUs / 1000)} on {span
        .resource.host} · {span.resource.release === NO_RELEASE
        ? NO_RELEASE
        : `release ${span.resource.release}`}
    </span>
    <span class="ml-auto flex flex-none gap-1.5">
      <a class="button" href={why} title="Slow requests of its endpoint against normal ones (y)">Why slow</a>
      <ExportMenu {exports} />
      <a class="button" href={viewLink('/load', {}, { repeat: `${span.traceId}/${span.spanId}` })}
        >Repeat this</a
      >
      {#if data.request.slower}<a class="button" href={neighbour(data.request.slower)}>‹ slower</a>{/if}
      {#if data.request.faster}<a class="button" href={neighbour(data.request.faster)}>faster ›</a>{/if}
    </span>
  </div>
  <RequestLedger
    ledger={request.ledger}
    durationNs={request.durationNs}
    explainedNs={stretches.explainedNs}
    failed={failedHere}
    likely={counters.likely}
  />
  <div class="px-4 pb-1.5 text-ink-2"><Choices label="View" choices={tabs} value={tab} /></div>
  {#if tab === 'calls'}
    <ByCallGroup {model} />
  {:else if tab === 'services'}
    <ByService {model} />
  {:else if tab === 'beside' && other}
    <Beside {model} {other} bind:alike />
  {:else}
    <Timeline
      bind:this={timeline}
      {model}
      logs={data.request.logs}
      {whatIf}
      folds={shown}
      onfolds={(next) => {
        folds = next;
        address.note({});
      }}
      bind:selected={
        () => selected,
        (row) => {
          choose(row);
          revealFacts();
        }
      }
    />
    {#if data.request.logs.length > 0}
      <RequestLog
        {model}
        logs={data.request.logs}
        {selected}
        text={shown.logText}
        level={shown.logLevel}
        onselect={choose}
        onsearch={(logText) => address.note({ logText })}
        onlevel={(logLevel) => address.note({ logLevel })}
      />
    {/if}
  {/if}
</Page>
