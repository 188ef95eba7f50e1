import { ratingOf, VITAL_FACTS } from '../pages/vitals';
import { defineRule } from './define-rule';
import type { FoundInPage, PageContext } from './page-finding';

const [GOOD] = VITAL_FACTS.cls.limits;

/** What was already there moved. */
export const shifts = defineRule({
  rule: 'shifts',
  name: 'Shifts',
  looksFor: 'A page whose content moved while it came more than is called good.',
  thresholds: [{ name: 'shift', value: `over ${GOOD}`, why: `web.dev calls up to ${GOOD} good.` }],
  why: 'Whoever reads loses the place, and whoever clicks hits something else.',
  doThis: [
    'Give pictures and frames their size, so that their place is kept.',
    'Do not put anything above what is there already.'
  ],
  find
});

function find({ load }: PageContext): FoundInPage[] {
  const { cls } = load.vitals;
  const at = load.elements.cls;
  if (cls === undefined || cls <= GOOD) return [];
  return [
    {
      title: 'Shifts',
      severity: ratingOf('cls', cls) === 'poor' ? 'high' : 'medium',
      sentence: `What was there moved by ${cls.toFixed(2)}; up to ${GOOD} is called good.${at ? ` Most moved at ${at}.` : ''}`,
      remedy: 'Keep the place of what comes later.',
      figures: { cls },
      evidence: { resources: [], tasks: [] },
      cost: 0
    }
  ];
}
