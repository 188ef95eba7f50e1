<script lang="ts">
  import { greatestOf } from '@tromix/core/counters/lines';
  import { metricText } from '@tromix/core/counters/unit-words';
  import { formatCount, plural } from '@tromix/core/text/format';
  import type { CounterLine, CounterLines, CounterName } from '$lib/server/queries/hosts/any-counter';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { counterOffer } from '$lib/ui/watch/offer-of';
  import { offersWatch, watchActions, type WatchOffer } from '$lib/ui/watch/offers.svelte';
  import Strip from './Strip.svelte';

  /** Any metric of a host, drawn on the time axis of the view. */
  interface Props {
    host: string;
    fromMs: number;
    toMs: number;
    /** The metric whose lines are drawn; '' for none. */
    chosen: string;
    onchoose: (name: string) => void;
  }
  let { host, fromMs, toMs, chosen, onchoose }: Props = $props();

  async function ask<Answer>(
    path: string,
    extra: Record<string, string>,
    signal: AbortSignal
  ): Promise<Answer> {
    const query = new URLSearchParams({
      host,
      from: String(Math.floor(fromMs)),
      to: String(Math.ceil(toMs)),
      ...extra
    });
    const response = await fetch(`/api/counters/${path}?${query}`, { signal });
    if (!response.ok) throw new Error('The counters could not be read.');
    return (await response.json()) as Answer;
  }
  const names = resource(
    () => ({ host, fromMs, toMs }),
    (_, signal) => ask<CounterName[]>('names', {}, signal),
    { keep: true }
  );
  const drawn = resource(
    () => (chosen ? { host, fromMs, toMs, chosen } : null),
    (question, signal) => ask<CounterLines>('lines', { name: question.chosen }, signal),
    { keep: true }
  );
  const KINDS: Record<CounterName['kind'], string> = {
    gauge: 'gauge',
    sum: 'sum',
    histogram: 'histogram',
    exponential: 'histogram'
  };
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  const offer = $derived.by((): WatchOffer | null => {
    const of = names.value?.find(({ name }) => name === chosen);
    if (!of) return null;
    const isHistogram = of.kind === 'histogram' || of.kind === 'exponential';
    return counterOffer(
      {
        name: of.name,
        unit: of.unit,
        isRate: !isHistogram && (drawn.value?.lines[0]?.isRate ?? false),
        part: isHistogram ? 'p95' : 'value'
      },
      host
    );
  });
  const textOf = ({ unit, isRate }: CounterLine): ((value: number) => string) => metricText(unit, isRate);
  /** Lines of one unit are held against each other. */
  const topOf = ({ unit, isRate }: CounterLine): number =>
    Math.max(
      ...(drawn.value?.lines ?? [])
        .filter((other) => other.unit === unit && other.isRate === isRate)
        .map(({ line }) => greatestOf(line) ?? 0)
    ) || 1;
</script>

<ActionMenu bind:this={menu} />
<section class="border-b border-rule px-4 py-2" aria-label="Any counter" use:offersWatch={() => offer}>
  <label class="flex items-baseline gap-2"
    ><span class="text-[13px]"><b class="font-semibold">{host}: any counter</b></span>
    <select
      class="max-w-[420px] field"
      value={chosen}
      onchange={({ currentTarget }) => onchoose(currentTarget.value)}
    >
      <option value="">choose one of {formatCount(names.value?.length ?? 0)}</option>
      {#each names.value ?? [] as { name, unit, kind, series } (`${name} ${unit} ${kind}`)}
        <option value={name}
          >{name}{unit ? `, ${unit}` : ''} ({KINDS[kind]}, {plural(series, 'series', 'series')})</option
        >
      {/each}
    </select></label
  >
  {#if chosen && drawn.value && drawn.value.lines.length > 0}
    <button
      class="mt-1 button"
      title="Watch it, or put it on a board (w)"
      aria-haspopup="menu"
      onclick={(event) => offer && void menu?.open(event, watchActions(offer))}>Watch</button
    >
  {/if}
  {#if names.error || drawn.error}<p class="mt-1 text-ink-3" role="status">
      {names.error || drawn.error}
    </p>{/if}
  {#if chosen && drawn.value}
    {#if drawn.value.lines.length === 0}<p class="mt-1 text-ink-3" role="status">
        {host} tells nothing of {chosen} in this time.
      </p>{/if}
    <table class="mt-1 w-full table-fixed border-collapse" aria-label="Lines of {chosen}">
      <tbody>
        {#each drawn.value.lines as one, i (i)}
          {@const text = textOf(one)}
          <tr class="border-t border-grid">
            <th
              scope="row"
              class="w-[220px] truncate py-1 pr-2 text-left align-top font-normal"
              title={one.label}
              >{one.label}<span class="block num text-[11px] text-ink-3">0 to {text(topOf(one))}</span></th
            >
            <td class="py-1">
              <Strip
                label={one.label}
                line={one.line}
                {text}
                top={topOf(one)}
                fromMs={drawn.value.fromMs}
                stepMs={drawn.value.stepMs}
              />
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if drawn.value.left > 0}<p class="text-[11px] text-ink-3">
        {plural(drawn.value.left, 'line')} with smaller values are not drawn.
      </p>{/if}
  {/if}
</section>
