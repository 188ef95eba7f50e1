import { formatCount, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import type { FailureContext, FoundInFailures } from './failure-finding';

const MIN_SERVICES = 3;
const MIN_TIMES = 5;
const MIN_SHARE = 0.5;

export const failureSpreads = defineRule({
  rule: 'failure-spreads',
  name: 'Failure spreads',
  looksFor: 'A failure that starts in one service and mostly passes through others to where people see it.',
  thresholds: [
    {
      name: 'services on its way',
      value: `${MIN_SERVICES} or more`,
      why: 'Between two services it is seen at once where it comes from.'
    },
    {
      name: 'share of its times that take such a way',
      value: `${MIN_SHARE * 100} % or more, at least ${MIN_TIMES} times`,
      why: 'Fewer are an exception.'
    }
  ],
  why: 'Each service on the way tells of it in words of its own, so it is sought where it is seen and not where it starts.',
  doThis: [
    'Mend it in the service in which it starts.',
    'Let the services on the way answer what they can without it, or say what they were told.'
  ],
  find
});

function find({ name, ways }: FailureContext): FoundInFailures[] {
  const all = ways.reduce((sum, { times }) => sum + times, 0);
  const far = ways.filter(({ services }) => new Set(services).size >= MIN_SERVICES);
  const times = far.reduce((sum, one) => sum + one.times, 0);
  if (times < MIN_TIMES || times < MIN_SHARE * all) return [];
  const { services } = far.reduce((most, one) => (one.times > most.times ? one : most));
  const [start] = services;
  return [
    {
      title: `Starts in ${start}, seen in ${services.at(-1)}`,
      severity: 'medium',
      sentence: `${name} starts in ${start} and passes ${services.slice(1).join(' and ')}: ${formatCount(times)} of ${formatCount(all)} times (${formatShare(times / all)}).`,
      remedy: `Mend it in ${start}; the others only pass it on.`,
      figures: { times, all, start, services: new Set(services).size }
    }
  ];
}
