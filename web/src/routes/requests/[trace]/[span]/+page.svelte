<script lang="ts">
  import { NO_RELEASE } from '@tromix/core/trace/resource';
  import { DropdownMenu } from 'bits-ui';
  import { page as address } from '$app/state';
  import { Replay } from '@tromix/core/trace/replay';
  import { saveText } from '$lib/ui/kit/csv';
  import { copyText } from '$lib/ui/kit/actions';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import { formatCount, formatDuration, formatDurationRange, formatShare } from '@tromix/core/text/format';
  import type { Finding as FoundFinding } from '@tromix/core/findings/finding';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { afterPaint } from '$lib/ui/kit/after-paint';
  import { exactTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { scopeParts } from '$lib/ui/shell/scope-parts';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { combKey } from '@tromix/core/trace/rows';
  import { samplesOf, stretchWords, type StretchSamples } from '$lib/ui/request/stretch-samples';
  import { profileLink } from '$lib/ui/request/profile-link';
  import {
    coveringProfile,
    findingsOf,
    modelOf,
    type CoveredStretch,
    type RequestModel
  } from '$lib/ui/request/request-model';
  import { requestReading } from '$lib/ui/request/request-reading';
  import { dumpsDuring } from '$lib/ui/request/dumps-during';
  import { lockWays } from '$lib/ui/request/lock-ways';
  import SpanFacts from '$lib/ui/request/SpanFacts.svelte';
  import Beside from '$lib/ui/request/Beside.svelte';
  import ByCallGroup from '$lib/ui/request/ByCallGroup.svelte';
  import ByService from '$lib/ui/request/ByService.svelte';
  import { ticketText } from '$lib/ui/request/ticket-text';
  import Timeline from '$lib/ui/request/Timeline.svelte';
  import { scopeWindow } from '$lib/scope';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  /** Spans up to which the rules are quicker than a picture. */
  const FINDINGS_AT_ONCE = 500;
  screenKeys([
    { keys: '↑ ↓', does: 'choose a row' },
    { keys: '← →', does: 'fold, unfold' },
    { keys: '+ −', does: 'unfold everything, fold the combs again' }
  ]);

  const model = $derived(modelOf(data.request));
  let late = $state.raw<{ of: RequestModel; findings: FoundFinding[] } | null>(null);
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
  const order = $derived(
    ACCOUNTS.filter((account) => ledger[account] > 0).toSorted((a, b) => ledger[b] - ledger[a])
  );
  const warnings = $derived(model.trace.tree.warnings);
  let chosen = $state('');
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

  function coveredBy(finding: FoundFinding): CoveredStretch | null {
    const { fromNs, toNs, spanIds } = finding.evidence;
    const node = model.byId.get(spanIds[0]);
    if (fromNs === undefined || toNs === undefined || node === undefined) return null;
    const owner = model.trace.byNode.get(model.trace.innermost[node])!;
    const begin = model.trace.tree.start[owner.node];
    return coveringProfile(model, node, begin + fromNs, begin + toNs, data.request.profiles);
  }
  /** What profiles say of the blind stretches, by finding. */
  let explained = $state.raw<ReadonlyMap<FoundFinding, StretchSamples>>(new Map());
  $effect(() => {
    const blind = (findings ?? []).flatMap((finding) => {
      const covered = finding.rule === 'blind-stretch' ? coveredBy(finding) : null;
      return covered ? [{ finding, covered }] : [];
    });
    let over = false;
    explained = new Map();
    if (blind.length > 0)
      void samplesOf(blind.map(({ covered }) => covered)).then((found) => {
        if (over) return;
        explained = new Map(
          blind.flatMap(({ finding }, i) => (found[i] ? [[finding, found[i]] as const] : []))
        );
      });
    return () => {
      over = true;
    };
  });
  /** Time without spans in which samples saw the process compute: that is own code, and no longer unseen. */
  const seenNs = $derived(
    Math.min(
      request.ledger.unseen,
      Math.round([...explained.values()].reduce((sum, { busyNs }) => sum + busyNs, 0))
    )
  );
  const ledger = $derived({
    ...request.ledger,
    unseen: request.ledger.unseen - seenNs,
    ownCode: request.ledger.ownCode + seenNs
  });
  const sameNote = (finding: FoundFinding): string => {
    const same = data.request.same.find(
      ({ rule, subject }) => rule === finding.rule && subject === finding.subject
    );
    return same
      ? `${formatCount(same.requests)} of ${formatCount(same.ofRequests)} requests here do the same`
      : '';
  };
  const show = (finding: FoundFinding): void => {
    const ids = finding.evidence.spanIds;
    const at = ids.map((id) => model.byId.get(id)!);
    chosen = at.length > 1 ? combKey(model.trace.tree, at) : ids[0];
  };
  const neighbour = (path: string): string => viewLink(`/requests/${path}`);
  const window = $derived(scopeWindow(data.scope, data.nowMs));

  const TABS = {
    timeline: 'timeline',
    calls: 'by call group',
    services: 'by service',
    beside: 'beside a normal one'
  };
  const tab = $derived.by(() => {
    const asked = address.url.searchParams.get('tab') ?? '';
    return asked in TABS && (asked !== 'beside' || data.request.normal)
      ? (asked as keyof typeof TABS)
      : 'timeline';
  });
  const tabs = $derived(
    Object.entries(TABS)
      .filter(([key]) => key !== 'beside' || data.request.normal)
      .map(([key, name]) => ({
        key,
        name,
        href: viewLink(address.url.pathname, {}, key === 'timeline' ? {} : { tab: key })
      }))
  );
  // Raw: a finding is known by itself, not by its content.
  let mended = $state.raw<FoundFinding | null>(null);
  const whatIf = $derived.by(() => {
    const edit = mended && findings?.includes(mended) ? mended.edit : undefined;
    return mended && edit && edit.size > 0
      ? { title: mended.title, times: new Replay(model.trace.tree, model.root).times(edit) }
      : null;
  });

  let timeline = $state<ReturnType<typeof Timeline> | null>(null);
  const fileName = $derived(`request-${data.request.traceId.slice(0, 8)}`);
  const ticket = (): string => ticketText(model, findings ?? findingsOf(model), address.url.href);
  function savePicture(): void {
    const style = getComputedStyle(document.documentElement);
    const colourOf = (token: string): string => {
      const name = /var\((--[\w-]+)\)/.exec(token)?.[1];
      return name ? style.getPropertyValue(name).trim() : token;
    };
    if (timeline) saveText(`${fileName}.svg`, timeline.picture(colourOf), 'image/svg+xml');
  }
  const EXPORTS = $derived([
    {
      name: 'Text for a ticket, copied',
      run: () => copyText(ticket())
    },
    {
      name: 'Text for a ticket, as a file',
      run: () => saveText(`${fileName}.md`, ticket(), 'text/markdown')
    },
    ...(tab === 'timeline' ? [{ name: 'Picture of the timeline (SVG)', run: savePicture }] : [])
  ]);
</script>

<Page>
  {#snippet scope()}
    <ScopeLine
      parts={scopeParts(
        ['endpoint', 'service', 'host', 'release', 'time'],
        {
          ...data.scope,
          endpoint: data.scope.endpoint || request.endpoint,
          service: data.scope.service || span.resource.service
        },
        data.names,
        window,
        data.nowMs
      )}
    />
  {/snippet}
  {#snippet reading()}
    {#if findings}
      {#each requestReading(model, findings, ledger) as sentence, i (i)}<Sentence text={sentence} />{/each}
    {/if}
    {#each findings ?? [] as finding, i (i)}
      {@const covered = coveredBy(finding)}
      <Finding title={finding.title} severity={finding.severity} note={sameNote(finding)}>
        {#if finding.evidence.fingerprint}<code class="line-clamp-3 block num break-words"
            >{finding.evidence.fingerprint}</code
          >{/if}
        <p class="mt-1">
          {finding.sentence}
          {#if finding.rule === 'blind-stretch'}{@const seen = explained.get(finding)}{seen
              ? stretchWords(seen, formatDuration)
              : covered
                ? 'A profile of this process covers it.'
                : 'No profile of this process covers it.'}{/if}
        </p>
        {#if finding.saving && finding.saving.highNs > 0}
          <p class="mt-1" title={finding.assumption}>
            {finding.remedy} The request should then take
            <b class="font-[620]"
              >{formatDurationRange(
                request.durationNs - finding.saving.highNs,
                request.durationNs - finding.saving.lowNs
              )}</b
            >.
          </p>
          <p class="mt-1 text-[11px] text-ink-3">{finding.assumption}</p>
        {:else}
          <p class="mt-1">{finding.remedy}</p>
        {/if}
        {#snippet actions()}
          {#if covered}<a class="button button-solid" href={profileLink(covered)}
              >Open those {formatDuration(covered.toNs - covered.fromNs)} in Profiles</a
            >{/if}
          {#each lockWays(model, finding, data.request.dumps) as way (way.path)}<a
              class="button button-solid"
              href={viewLink(way.path, way.scope, way.extra)}>{way.text}</a
            >{/each}
          {#if (finding.edit?.size ?? 0) > 0 && tab === 'timeline'}
            <button
              class="button"
              aria-pressed={mended === finding}
              onclick={() => (mended = mended === finding ? null : finding)}
              >{mended === finding ? 'Hide the preview' : 'Preview the fix'}</button
            >
          {/if}
          <button class="button" onclick={() => show(finding)}
            >Show {finding.evidence.spanIds.length > 1 ? 'the calls' : 'the span'}</button
          >
        {/snippet}
      </Finding>
    {:else}
      <p class="text-ink-3" role="status">
        {findings ? 'No rule found anything in this request.' : 'The rules are looking at it…'}
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
          >{:else}<a class="button" href={viewLink(`/threads/${dump.id}`)}>Who held up whom</a>{/each}
      </p>
    {/each}
    {#each warnings as warning, i (i)}
      <p class="my-1 text-[11px] text-ink-3">{formatCount(warning.count)}×: {warning.message}</p>
    {/each}
    {#if findings}<SpanFacts
        {model}
        {nodes}
        profiles={data.request.profiles}
        logs={data.request.logs}
        hasSources={data.request.hasSources}
      />{/if}
  {/snippet}

  <div class="flex items-baseline gap-3 px-4 pt-3 pb-2 whitespace-nowrap">
    <h1 class="font-mono text-[18px] font-semibold">{formatDuration(request.durationNs)}</h1>
    <span class="truncate text-ink-2">
      {#if request.failed}<b class="text-alarm">✕ failed</b>
      {/if}at {exactTime(model.startUs / 1000)} on {span.resource.host} · {span.resource.release ===
      NO_RELEASE
        ? NO_RELEASE
        : `release ${span.resource.release}`}
    </span>
    <span class="ml-auto flex flex-none gap-1.5">
      <DropdownMenu.Root>
        <DropdownMenu.Trigger class="button border-rule text-ink-2">Export</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content class="pop min-w-48 py-1" align="end" sideOffset={4}>
            <DropdownMenu.Item class="data-[highlighted]:bg-steer-soft">
              {#snippet child({ props })}<a
                  {...props}
                  class="block px-3 py-1 data-[highlighted]:bg-steer-soft"
                  href="/api/requests/{data.request.traceId}/{data.request.spanId}/otlp"
                  download>The trace (OTLP JSON)</a
                >{/snippet}
            </DropdownMenu.Item>
            {#each EXPORTS as { name, run } (name)}
              <DropdownMenu.Item
                class="cursor-pointer px-3 py-1 data-[highlighted]:bg-steer-soft"
                onSelect={run}>{name}</DropdownMenu.Item
              >
            {/each}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {#if data.request.slower}<a class="button" href={neighbour(data.request.slower)}>‹ slower</a>{/if}
      {#if data.request.faster}<a class="button" href={neighbour(data.request.faster)}>faster ›</a>{/if}
    </span>
  </div>
  <div
    class="mx-4 flex h-[30px] flex-none overflow-hidden rounded-[3px] border border-ink"
    role="img"
    aria-label="Ledger: {order
      .map((account) => `${LOOKS[account].name} ${formatDuration(ledger[account])}`)
      .join(', ')}"
  >
    {#each order as account (account)}
      {@const part = ledger[account] / Math.max(1, request.durationNs)}
      <div
        class="overflow-hidden border-r border-sheet pl-[7px] font-mono text-[11px] leading-[30px] font-semibold whitespace-nowrap last:border-0"
        style:flex="{part} 1 0"
        style:background={LOOKS[account].colour}
        style:color={LOOKS[account].on}
        title="{LOOKS[account].name}: {formatDuration(ledger[account])}"
      >
        {#if part > 0.02}{LOOKS[account].letter}{/if}{#if part > 0.1}&nbsp;{formatDuration(
            ledger[account]
          )}{/if}
      </div>
    {/each}
  </div>
  <div class="mx-4 mt-1 mb-2.5 flex flex-wrap gap-x-4 text-[12px] text-ink-2">
    {#each order as account (account)}
      <span class="inline-flex items-center"
        ><AccountChip {account} />{LOOKS[account].name}
        {formatShare(ledger[account] / Math.max(1, request.durationNs))}</span
      >
    {/each}
    <span class="ml-auto"
      >{#if seenNs > 0}{formatDuration(seenNs)} of own code known by samples ·
      {/if}every nanosecond booked once</span
    >
  </div>
  <div class="px-4 pb-1.5 text-ink-2"><Choices label="See it" choices={tabs} value={tab} /></div>
  {#if tab === 'calls'}
    <ByCallGroup {model} />
  {:else if tab === 'services'}
    <ByService {model} />
  {:else if tab === 'beside' && data.request.normal}
    <Beside {model} normal={data.request.normal} />
  {:else}
    <Timeline
      bind:this={timeline}
      {model}
      logs={data.request.logs}
      {whatIf}
      bind:selected={() => selected, (key) => (chosen = key)}
    />
  {/if}
</Page>
