<script lang="ts">
  import { judge, type Prediction, type PredictionState } from '@tromix/core/compare/prediction';
  import type { HowSure } from '@tromix/core/compare/how-sure';
  import type { Sides } from '@tromix/core/sides';
  import { formatDuration, formatDurationRange, plural } from '@tromix/core/text/format';
  import { scopeQuery, type Scope } from '$lib/scope';
  import type { PredictionScore } from '$lib/server/queries/sides/predictions';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send, sendAndSay } from '$lib/ui/frame/send';

  /** What the removal of a finding was to give, held against what was measured. */
  interface Props {
    finding: { rule: string; subject: string };
    /** What the finding is called. */
    title: string;
    sure: HowSure | null;
    scopes: Sides<Scope>;
    /** The comparison as an address has it. */
    query: string;
    /** Other findings that went with it: what was measured is of all of them. */
    others: number;
  }
  let { finding, title, sure, scopes, query, others }: Props = $props();
  interface Answer {
    prediction: Prediction | null;
    kept: PredictionState | null;
    score: PredictionScore;
  }
  const answer = resource(
    () => `${query}&${new URLSearchParams(finding)}`,
    (asked, signal) => send<Answer>('GET', `/api/compare/predictions${asked}`, undefined, signal)
  );
  const prediction = $derived(answer.value?.prediction ?? null);
  const measured = $derived(sure?.changes.median?.sidesWithin.after ?? null);
  const judged = $derived(prediction && measured ? judge(prediction, measured) : null);
  const TITLES: Record<PredictionState, string> = {
    held: 'The prediction held',
    'faster than predicted': 'Faster than predicted',
    'slower than predicted': 'Slower than predicted'
  };

  async function keep(): Promise<void> {
    const done = await sendAndSay(
      'POST',
      '/api/predictions',
      {
        service: scopes.before.service,
        endpoint: scopes.before.endpoint,
        ...finding,
        sideA: scopeQuery(scopes.before),
        sideB: scopeQuery(scopes.after),
        prediction,
        measured
      },
      'Kept in the score.'
    );
    if (done) answer.again();
  }
</script>

{#if prediction && measured && judged}
  <section
    class="my-2 rounded-[3px] border border-l-[3px] border-rule bg-paper px-2.5 py-2"
    style:border-left-color={judged === 'slower than predicted' ? 'var(--alarm)' : 'var(--ink-3)'}
    aria-label="Prediction"
  >
    <h4 class="font-semibold">{TITLES[judged]}: {title}</h4>
    <p class="mt-0.5 text-pretty">
      Of the median of {formatDuration(prediction.beforeNs)}, {formatDurationRange(
        prediction.within.low,
        prediction.within.high
      )} were to be left; measured {formatDurationRange(measured.low, measured.high)}.
    </p>
    {#if others > 0}<p class="text-[11px] text-ink-3">
        {plural(others, 'other finding')} went too: what was measured is of all together.
      </p>{/if}
    <p class="mt-1 flex items-center gap-2">
      {#if answer.value?.kept === null}<button class="button" onclick={() => void keep()}
          >Keep in the score</button
        >{/if}
      <span class="text-[11px] text-ink-3"
        >{answer.value && answer.value.score.judged > 0
          ? `Of ${plural(answer.value.score.judged, 'prediction')} kept here, ${answer.value.score.held} held.`
          : 'No prediction is kept here yet.'}</span
      >
    </p>
  </section>
{/if}
