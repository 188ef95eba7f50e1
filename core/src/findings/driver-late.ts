import { figuresOf, latenessOf } from '../load/figures';
import { isOpen } from '../load/plan';
import { formatDuration } from '../text/format';
import { defineRule } from './define-rule';
import type { FoundInLoad, LoadContext } from './load-finding';

/** The driver sends one request in a hundred so much too late, microseconds, */
const MIN_LATE_US = 5000;
/** which is that part of what half of the requests take. */
const MIN_SHARE = 0.1;
const HIGH_SHARE = 0.5;
const MIN_SAMPLES = 100;

/** The driver does not keep up with its plan. */
export const driverLate = defineRule({
  rule: 'driver-late',
  name: 'Driver late',
  looksFor:
    'A run whose driver sent requests later than the plan wanted, so that it measured itself as well.',
  thresholds: [
    {
      name: 'lateness at p99',
      value: `${formatDuration(MIN_LATE_US * 1000)} or more, and ${MIN_SHARE * 100} % of the median response time`,
      why: 'Less changes no figure that is shown.'
    },
    {
      name: 'requests',
      value: `${MIN_SAMPLES} or more`,
      why: 'One in a hundred is not known of fewer.'
    }
  ],
  why: 'The driver shares this machine with what it tests, or has more to send than one thread can. Its times then contain its own delays.',
  doThis: [
    'Send less: fewer users, a lower rate, smaller answers.',
    'Run the driver on a machine of its own, or give it a core that nothing else uses.'
  ],
  find
});

function find({ plan, samples }: LoadContext): FoundInLoad[] {
  if (samples.length < MIN_SAMPLES) return [];
  const late = latenessOf(samples);
  const { medianUs } = figuresOf(samples, isOpen(plan));
  if (late.p99Us < MIN_LATE_US || late.p99Us < MIN_SHARE * medianUs) return [];
  const lateNs = samples.column('lateUs').reduce((sum, us) => sum + us, 0) * 1000;
  return [
    {
      title: 'Driver late',
      severity: late.p99Us >= HIGH_SHARE * medianUs ? 'high' : 'medium',
      sentence: `The driver sent one request in a hundred ${formatDuration(late.p99Us * 1000)} or more too late, at a median response time of ${formatDuration(medianUs * 1000)}: the figures of this run are partly its own.`,
      remedy: 'Send less, or run the driver where it has a core to itself.',
      figures: { lateP99Ns: late.p99Us * 1000, lateMaxNs: late.maxUs * 1000, medianNs: medianUs * 1000 },
      evidence: { step: null },
      cost: lateNs
    }
  ];
}
