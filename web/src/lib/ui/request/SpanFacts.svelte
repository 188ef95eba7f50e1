<script lang="ts">
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import { median } from '@tromix/core/stats/percentile';
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import { numberOf, textOf as textAttribute, type AttributeValue } from '@tromix/core/trace/span';
  import { coveringProfile, labelOf, type RequestModel } from './request-model';
  import type { CoveringProfile, StoredLog } from '$lib/server/queries/request-page';
  import Exception from './Exception.svelte';
  import Source from './Source.svelte';
  import Statement from '$lib/ui/calls/Statement.svelte';
  import { exactTime } from '$lib/ui/kit/time';
  import { lineInsideLink } from '$lib/ui/recorder/observe-link';
  import { profileLink } from '$lib/ui/profile/profile-link';

  /** The nodes that are selected: one span, or the calls of a comb. */
  let {
    model,
    nodes,
    profiles,
    logs,
    hasSources
  }: {
    model: RequestModel;
    nodes: number[];
    profiles: CoveringProfile[];
    logs: StoredLog[];
    hasSources: boolean;
  } = $props();

  const tree = $derived(model.trace.tree);
  const span = $derived(tree.nodes[nodes[0]].span);
  const durations = $derived(nodes.map((node) => tree.end[node] - tree.start[node]).sort((a, b) => a - b));
  const booked = $derived(nodes.reduce((sum, node) => sum + (model.request.booked.get(node) ?? 0), 0));
  const rows = $derived(
    nodes.map((node) => tree.nodes[node].call?.rows ?? null).filter((value) => value !== null)
  );
  const covered = $derived(
    nodes.length === 1
      ? coveringProfile(model, nodes[0], tree.start[nodes[0]], tree.end[nodes[0]], profiles)
      : null
  );

  const facts = $derived.by((): [string, string][] => {
    const list: [string, string][] = [];
    if (nodes.length > 1) {
      list.push(
        ['calls', formatCount(nodes.length)],
        ['shortest', formatDuration(durations[0])],
        ['median', formatDuration(median(durations))],
        ['longest', formatDuration(durations[durations.length - 1])]
      );
    } else {
      list.push(
        ['began', exactTime((tree.baseUs + tree.start[nodes[0]] / 1000) / 1000)],
        ['after its request began', formatDuration(tree.start[nodes[0]] - tree.start[model.root])],
        ['took', formatDuration(durations[0])]
      );
    }
    list.push([
      'booked',
      `${formatDuration(booked)} · ${formatShare(booked / Math.max(1, model.request.durationNs))}`
    ]);
    if (rows.length > 0) list.push(['rows each', formatCount(Math.round(median(rows)))]);
    return list;
  });
  /** Where the span was made, as its attributes or its call say. */
  const place = $derived.by(() => {
    const file = textAttribute(span.attributes, 'code.file.path', 'code.filepath');
    const line = numberOf(span.attributes, 'code.line.number', 'code.lineno');
    if (file && line !== undefined) return { file, line };
    const found = /^(\S+?):(\d+)/.exec(span.call?.origin ?? '');
    return found ? { file: found[1], line: Number(found[2]) } : null;
  });
  const exceptions = $derived(
    nodes.length === 1 ? span.events.filter(({ name }) => name === 'exception') : []
  );
  const otherEvents = $derived(
    nodes.length === 1 ? span.events.filter(({ name }) => name !== 'exception') : []
  );
  const ownLogs = $derived(nodes.length === 1 ? logs.filter(([id]) => id === span.spanId) : []);
  const CODE = /^code\./;
  const shown = $derived(nodes.length > 1 ? [] : [...span.attributes].filter(([name]) => !CODE.test(name)));
  const textOf = (value: AttributeValue): string =>
    typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value);
</script>

<section id="selected-facts" aria-label="Selected">
  <h3 class="mt-3.5 mb-1 heading">
    Selected: {nodes.length > 1 ? `comb of ${formatCount(nodes.length)}` : 'one span'}
  </h3>
  <p class="mb-1 num break-words">{nodes.length > 1 || span.call ? '' : labelOf(span)}</p>
  {#if span.call}
    <Statement text={span.call.fingerprint} sql={span.call.kind === 'database'} />
    <p class="mb-1.5 text-[11px] text-ink-3">
      {#if span.call.origin}Issued at <code class="num text-ink">{span.call.origin}</code>.
      {/if}{span.call.kind === 'database' ? 'Literals are masked and were not stored.' : ''}
    </p>
  {/if}
  {#if place}<Source
      file={place.file}
      line={place.line}
      {hasSources}
      inside={lineInsideLink(
        { ...place, name: textAttribute(span.attributes, 'code.function.name', 'code.function') },
        span.resource
      )}
    />{/if}
  {#each exceptions as event, i (i)}<Exception {event} />{:else}
    {#if span.statusMessage}<p class="mb-1.5 text-alarm">{span.statusMessage}</p>{/if}
  {/each}
  <FactTable {facts} />
  {#if covered}
    <a class="mt-2 button" href={profileLink(covered)}>Open this time in Profiles</a>
  {/if}
  {#if shown.length > 0}
    <details class="mt-2">
      <summary class="heading">{formatCount(shown.length)} attributes</summary>
      <dl class="mt-1 num">
        {#each shown as [name, value] (name)}
          <dt class="text-ink-3">{name}</dt>
          <dd class="mb-1 pl-2 break-words">{textOf(value)}</dd>
        {/each}
      </dl>
    </details>
  {/if}
  {#if otherEvents.length > 0}
    <h3 class="mt-2 mb-1 heading">Events</h3>
    {#each otherEvents as event, i (i)}
      <p class="mb-1 num break-words">
        {formatDuration(event.offsetNs)}
        {event.name}
        {[...event.attributes].map(([name, value]) => `${name}=${textOf(value)}`).join(' ')}
      </p>
    {/each}
  {/if}
  {#if ownLogs.length > 0}
    <h3 class="mt-2 mb-1 heading">Log</h3>
    {#each ownLogs as [, atUs, , severity, body], i (i)}
      <p class="mb-1 num break-words {severity >= 17 ? 'text-alarm' : ''}">
        <span class="text-ink-3">{exactTime(atUs / 1000)}</span>
        {body}
      </p>
    {/each}
  {/if}
</section>
