<script lang="ts">
  import { greatestOf } from '@tromix/core/counters/lines';
  import { MEASURES } from '@tromix/core/counters/strips';
  import { formatDuration, plural } from '@tromix/core/text/format';
  import type { BesideLine, CountersBeside } from '$lib/server/queries/hosts/beside';
  import type { TakingPart } from '$lib/server/queries/hosts/taking-part';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import { measureText } from '@tromix/core/counters/measure-words';
  import Strip from './Strip.svelte';

  /** The counters of processes and their hosts, under a picture and on its very time axis; shown where the reader wants them. */
  interface Props {
    of: readonly TakingPart[];
    /** What the picture's axis reaches over, epoch milliseconds. */
    fromMs: number;
    toMs: number;
    /** Pixels from the edges to the ends of that axis. */
    left?: number;
    right?: number;
    /** Which of several pictures it is under. */
    name?: string;
  }
  let { of, fromMs, toMs, left = 16, right = 16, name = '' }: Props = $props();

  const FEW = 8;
  /** Less than this part of what matters at the least is nothing. */
  const NOTHING = 1 / 20;
  let all = $state(false);
  const asked = resource(
    () => (preferences.countersBelow && of.length > 0 && toMs > fromMs ? { of, fromMs, toMs } : null),
    async (question, signal): Promise<CountersBeside> => {
      const query = new URLSearchParams({
        processes: JSON.stringify(question.of),
        from: String(Math.floor(question.fromMs)),
        to: String(Math.ceil(question.toMs))
      });
      const response = await fetch(`/api/counters/beside?${query}`, { signal });
      if (!response.ok) throw new Error('The counters could not be read.');
      return (await response.json()) as CountersBeside;
    },
    { keep: true }
  );
  const lines = $derived(asked.value?.lines ?? []);
  /** What was at nothing all the time is said in a line, and not drawn. */
  const isMoving = ({ line, measure }: BesideLine): boolean =>
    (greatestOf(line) ?? 0) >= NOTHING * MEASURES[measure].least;
  const moving = $derived(lines.filter(isMoving));
  const still = $derived(lines.filter((one) => !isMoving(one)));
  const shown = $derived(all ? moving : moving.slice(0, FEW));
  /** Shares reach to all of it; others to the greatest of the same measure. */
  const topOf = (measure: BesideLine['measure']): number => {
    const most = Math.max(
      0,
      ...lines.filter((one) => one.measure === measure).map(({ line }) => greatestOf(line) ?? 0)
    );
    return MEASURES[measure].unit === 'share' ? Math.max(1, most) : most || 1;
  };
</script>

<section aria-label="Counters below{name ? `, ${name}` : ''}">
  <p class="flex items-baseline gap-3 px-4 py-0.5 text-[11px]">
    <button
      class="text-ink-2 underline decoration-dotted"
      type="button"
      aria-expanded={preferences.countersBelow}
      onclick={() => preferences.toggleCounters()}
      >{preferences.countersBelow ? 'Without counters' : 'Counters on this axis'}</button
    >
    {#if name}<span class="text-ink-2">{name}</span>{/if}
    {#if preferences.countersBelow && asked.value}<span class="text-ink-3"
        >{lines.length === 0
          ? 'Nobody who took part tells counters of this time.'
          : `a value every ${formatDuration(asked.value.stepMs * 1e6)}`}</span
      >{/if}
    {#if asked.error}<span class="text-ink-3" role="status">{asked.error}</span>{/if}
  </p>
  {#if preferences.countersBelow && asked.value}
    {#each shown as { who, measure, line } (`${who} ${measure}`)}
      <div class="border-t border-grid pt-0.5" style:padding-left="{left}px" style:padding-right="{right}px">
        <p class="flex gap-2 text-[11px] leading-tight" style:padding-left="{Math.max(0, 6 - left)}px">
          <span class="truncate text-ink-2">{who} · {MEASURES[measure].title}</span>
          <span class="num whitespace-nowrap text-ink-3">0 to {measureText(measure, topOf(measure))}</span>
        </p>
        <Strip
          label="{MEASURES[measure].title} of {who}"
          {line}
          text={(value) => measureText(measure, value)}
          top={topOf(measure)}
          fromMs={asked.value.fromMs}
          stepMs={asked.value.stepMs}
          axis={{ fromMs, toMs }}
        />
      </div>
    {/each}
    {#if moving.length > FEW}<p class="px-4 py-1 text-[11px]">
        <button class="underline decoration-dotted" type="button" onclick={() => (all = !all)}
          >{all ? 'Fewer' : `${plural(moving.length - FEW, 'more counter')}`}</button
        >
      </p>{/if}
    {#if still.length > 0}<p class="border-t border-grid px-4 py-1 text-[11px] text-ink-3">
        At nothing all this time: {still
          .map(({ who, measure }) => `${MEASURES[measure].title} of ${who}`)
          .join(', ')}.
      </p>{/if}
  {/if}
</section>
