<script lang="ts">
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import type { Condition } from '@tromix/core/watch/condition';
  import { figureOf } from '@tromix/core/watch/figures';
  import type { DrawnPast } from '$lib/server/watch/past-run';
  import type { Resource } from '$lib/ui/frame/resource.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import FigureChart from './FigureChart.svelte';
  import { limitMarks } from './limit-marks';
  import { endOf } from './place-words';

  /** What a watch would have said in the days that are over. */
  interface Props {
    past: Resource<DrawnPast>;
    condition: Condition | null;
    /** Whether the condition has its limits already; else only the figure is shown. */
    isWhole: boolean;
  }
  let { past, condition, isWhole }: Props = $props();

  const run = $derived(past.value);
  const figure = $derived(condition && figureOf(condition.watched));
  const MINUTE_MS = 60_000;
  /** When it looks at, in words: `in the last 7 days`. */
  const when = $derived.by(() => {
    if (!run) return '';
    const minutes = run.to - run.from + 1;
    const long = minutes >= 1440 ? plural(Math.round(minutes / 1440), 'day') : formatDuration(minutes * 60e9);
    return run.isShorter ? `in the ${long} since the first data` : `in the last ${long}`;
  });
  const MOST_LISTED = 50;

  const sentence = $derived.by(() => {
    if (!run) return '';
    if (run.judged === 0)
      return condition?.limit.by === 'before'
        ? `No minute ${when} had enough to hold against an earlier time.`
        : `No minute ${when} had enough to judge.`;
    const times = run.firings.length;
    const often =
      times === 0
        ? 'It would have said nothing'
        : `It would have come on ${times === 1 ? 'once' : `${formatCount(times)} times`}`;
    return `${often} ${when}, of which ${formatDuration(run.judged * 60e9)} could be judged.`;
  });
</script>

<!-- A sentence of two lines, the chart and the newest firing have their room while they are awaited. -->
<div class="min-h-[256px]">
  {#if past.error}<p class="text-alarm" role="alert">{past.error}</p>
  {:else if !run || !condition || !figure}<p class="text-ink-3" role="status">
      Running it over the last 7 days…
    </p>
  {:else}
    <p class="mb-1" role="status" class:opacity-60={past.outOfDate}>
      {isWhole ? sentence : 'Set a limit to see what it would have said.'}
    </p>
    <FigureChart
      lines={[{ title: figure.title, values: run.values }]}
      text={figure.text}
      fromMs={run.from * MINUTE_MS}
      stepMs={run.step * MINUTE_MS}
      toMs={(run.to + 1) * MINUTE_MS}
      limits={isWhole ? limitMarks(condition) : []}
      bands={isWhole
        ? run.firings.map(({ on, off }) => ({
            from: endOf(on),
            to: off === null ? (run.to + 1) * MINUTE_MS : endOf(off),
            name: ''
          }))
        : []}
      height={110}
      label="{figure.title} {when}, and when the watch would have been on."
    />
    {#if isWhole && run.firings.length > 0}
      <ul class="max-h-24 overflow-y-auto text-[12px]" aria-label="When it would have been on">
        {#each run.firings.slice(-MOST_LISTED).reverse() as { on, off, value, worst }, i (i)}
          <li class="flex gap-3 border-t border-grid py-px">
            <span class="w-36 flex-none num">{dateTime(endOf(on))}</span>
            <span class="w-28 flex-none text-ink-2"
              >{off === null ? 'still on' : `for ${formatDuration((off - on) * 60e9)}`}</span
            >
            <span class="text-ink-2"
              >{value === null ? '' : figure.text(value)}{worst !== null && worst !== value
                ? `, ${figure.text(worst)} at the worst`
                : ''}</span
            >
          </li>
        {/each}
      </ul>
      {#if run.firings.length > MOST_LISTED}<p class="text-[11px] text-ink-3">
          The newest {MOST_LISTED} of {formatCount(run.firings.length)} are listed.
        </p>{/if}
    {/if}
  {/if}
</div>
