import { isOpen, stepName } from '../load/plan';
import { responseTimes, sentAndEnded } from '../load/samples';
import { quantiles } from '../stats/percentile';
import { formatDuration, plural } from '../text/format';
import { defineRule } from './define-rule';
import { severityOf } from './finding';
import type { FoundInLoad, LoadContext } from './load-finding';

/** The first requests take so many times as long as later ones at the median, together. */
const MIN_RATIO = 2;
/** And so much longer, microseconds. */
const MIN_EXTRA_US = 5000;
/** Of a step; its second half says what is usual. */
const MIN_SAMPLES = 20;
/** Of the first requests so many are slower than 95 of 100 later ones. */
const MOST = 0.8;

/** The first requests are slower. */
export const warmUp = defineRule({
  rule: 'warm-up',
  name: 'Warm-up',
  looksFor: 'The first requests of a step, where they are slower than those of the second half of the run.',
  thresholds: [
    {
      name: 'time',
      value: `${MIN_RATIO} × the later median or more, and ${formatDuration(MIN_EXTRA_US * 1000)} longer`,
      why: 'Less is within what requests differ by anyway.'
    },
    {
      name: 'which are the first',
      value: `${MOST * 100} % of them slower than 95 % of the later ones`,
      why: 'Where they end is where they begin to look like all others.'
    },
    {
      name: 'requests',
      value: `${MIN_SAMPLES} or more of the step`,
      why: 'The second half says what is usual: of fewer it is not known.'
    }
  ],
  why: 'Code is compiled, caches fill and connections open while the first requests wait: users meet that after each restart, and it spoils averages.',
  doThis: [
    'Leave the first requests out when two runs are compared.',
    'Where users meet it, do that work before the process takes requests: open connections, fill caches, load what is loaded lazily.'
  ],
  find
});

function find({ plan, samples }: LoadContext): FoundInLoad[] {
  const times = responseTimes(samples, isOpen(plan));
  const steps = samples.column('step');
  const { sent } = sentAndEnded(samples);
  const allNs = times.reduce((sum, us) => sum + us, 0) * 1000;
  return plan.steps.flatMap((step, number): FoundInLoad[] => {
    const own = Array.from(times.keys())
      .filter((i) => steps[i] === number)
      .sort((a, b) => sent[a] - sent[b])
      .map((i) => times[i]);
    if (own.length < MIN_SAMPLES) return [];
    const [usual, high] = quantiles(own.slice(Math.ceil(own.length / 2)), [0.5, 0.95]);
    const first = firstSlow(own, high);
    if (first === 0) return [];
    const meanUs = own.slice(0, first).reduce((sum, us) => sum + us, 0) / first;
    if (meanUs < MIN_RATIO * usual || meanUs - usual < MIN_EXTRA_US) return [];
    const cost = (meanUs - usual) * first * 1000;
    return [
      {
        title: 'Warm-up',
        severity: severityOf(cost, allNs),
        sentence: `The first ${first === 1 ? 'request' : plural(first, 'request')} of ${stepName(step)} took ${formatDuration(meanUs * 1000)}${first === 1 ? '' : ' on average'}; the second half of the run has a median of ${formatDuration(usual * 1000)}.`,
        remedy: 'Leave them out when two runs are compared.',
        figures: { first, meanNs: meanUs * 1000, usualNs: usual * 1000 },
        evidence: { step: number },
        cost
      }
    ];
  });
}

/** How many at the beginning are slower than the limit, all but a few of them; never more than half. */
function firstSlow(times: readonly number[], limit: number): number {
  let slow = 0;
  let first = 0;
  for (let i = 0; i < Math.floor(times.length / 2); i++) {
    if (times[i] > limit) slow++;
    if (times[i] > limit && slow / (i + 1) >= MOST) first = i + 1;
  }
  return first;
}
