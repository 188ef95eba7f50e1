<script lang="ts">
  import { ratingOf, VITAL_FACTS } from '@tromix/core/pages/vitals';
  import { formatCount, formatShare } from '@tromix/core/text/format';
  import type { VitalBars } from '$lib/server/queries/pages/vital-bars';
  import { formatVital, RATING_FILL, RATING_INK, ratingWords } from './vital-words';

  /** One vital: its figure, how it is distributed over loads of the page, and its two limits. */
  interface Props {
    strip: VitalBars;
    /** Of one load; else it is the 75th percentile. */
    value?: number | null;
  }
  let { strip, value }: Props = $props();

  const WIDTH = 140;
  const HEIGHT = 30;
  const { vital, bars, until } = $derived(strip);
  const { title, limits } = $derived(VITAL_FACTS[vital]);
  const shown = $derived(value === undefined ? strip.p75 : value);
  const loads = $derived(bars.reduce((sum, { count }) => sum + count, 0));
  const most = $derived(Math.max(1, ...bars.map(({ count }) => count)));
  const x = (at: number): number => Math.min(1, at / until) * WIDTH;
  const width = $derived(WIDTH / bars.length);
  const shareOf = (rating: string): string =>
    formatShare(
      bars.filter((bar) => bar.rating === rating).reduce((sum, { count }) => sum + count, 0) / loads
    );
  const label = $derived(
    loads === 0
      ? `${title}: not measured`
      : `${title} of ${formatCount(loads)} loads: ${shareOf('good')} good, ${shareOf('poor')} poor`
  );
</script>

<div class="min-w-0">
  <div class="text-[11px] text-ink-3">
    {title} <span class="num">{vital.toUpperCase()}</span>
  </div>
  <div
    class="num text-[15px] font-semibold {shown === null || shown === undefined
      ? 'text-ink-3'
      : RATING_INK[ratingOf(vital, shown)]}"
    title={ratingWords(vital, shown)}
  >
    {shown === null || shown === undefined ? 'not told' : formatVital(vital, shown)}
  </div>
  <svg
    class="block w-full"
    viewBox="0 0 {WIDTH} {HEIGHT + 16}"
    role="img"
    aria-label={label}
    preserveAspectRatio="xMinYMin meet"
  >
    <title>{label}</title>
    {#each bars as { count, rating }, i (i)}
      {#if count > 0}{@const height = Math.max(1, (count / most) * HEIGHT)}<rect
          x={i * width}
          y={HEIGHT - height}
          width={width - 0.8}
          {height}
          fill={RATING_FILL[rating]}
        />{/if}
    {/each}
    <path d="M0 {HEIGHT + 0.5}H{WIDTH}" stroke="var(--rule)" />
    {#each limits as limit (limit)}
      <path d="M{x(limit)} {HEIGHT - 4}v8" stroke="var(--ink-3)" />
      <text x={x(limit)} y={HEIGHT + 14} text-anchor="middle" class="fill-ink-3 num text-[9.5px]"
        >{formatVital(vital, limit)}</text
      >
    {/each}
    {#if shown !== null && shown !== undefined}
      <path d="M{x(shown)} 0V{HEIGHT + 3}" stroke="var(--pen)" stroke-width="2" />
    {/if}
  </svg>
</div>
