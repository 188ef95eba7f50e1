import { END_WORDS, type LoadEnd } from '@tromix/core/load/run-file';
import { stepName, type LoadPlan } from '@tromix/core/load/plan';
import type { LoadReport } from '@tromix/core/load/report';
import { formatCount, formatDuration, formatFigure, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';

/** How a run stands, in a word. */
export const stateWord = (state: string): string =>
  ({
    running: 'running',
    done: 'done',
    stopped: 'stopped',
    'gave-up': 'gave up',
    'cut-off': 'cut off',
    full: 'full'
  })[state] ?? state;

/** Answers per second with three digits. */
export const perSecond = (rate: number): string => `${formatFigure(rate)}/s`;
export const us = (value: number): string => formatDuration(value * 1000);

/** What a plan does, in a few words. */
export function planWords({ rate, users, rampUpSeconds, loops, seconds, steps }: LoadPlan): string {
  const who = rate > 0 ? `${formatCount(rate)} arrivals per second` : plural(users, 'user');
  const how = seconds > 0 ? formatDuration(seconds * 1e9) : plural(loops, rate > 0 ? 'visit' : 'loop');
  const joined = rampUpSeconds > 0 ? `, ramp-up ${formatDuration(rampUpSeconds * 1e9)}` : '';
  return `${who}${joined}, ${how}${steps.length > 1 ? `, ${plural(steps.length, 'step')}` : ''}`;
}

/** What a run comes to. */
export function runSentence({ figures, throughput, endUs, open }: LoadReport, plan: LoadPlan): Words {
  if (figures.samples === 0) return ['No request of this run has been answered yet.'];
  const what = plan.steps.length === 1 ? ` to ${stepName(plan.steps[0])}` : '';
  const failed =
    figures.failed === 0
      ? 'none failed'
      : `${formatCount(figures.failed)} failed (${formatShare(figures.failed / figures.samples)})`;
  return words`${[plural(figures.samples, 'request')]}${what} in ${us(endUs)}, ${[perSecond(throughput)]}; ${failed}. Half of them took ${[us(figures.medianUs)]} or less, one in a hundred more than ${[us(figures.p99Us)]}${open ? ', counted from when each was to be sent' : ''}.`;
}

/** How a run ended; '' for one under way. */
export const endSentence = (state: string): string =>
  state === 'running' || state === 'done' ? '' : `The run ${END_WORDS[state as LoadEnd] ?? state}.`;

/** A place on the time axis of a run. */
export const secondsLabel = (at: number): string => `${Number(at.toFixed(2))} s`;
