import { LONG_TASK_MS } from '../pages/page-load';
import { formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { severityOf } from './finding';
import { fileName, inMs, isMuch, OF_THE_WAY, type FoundInPage, type PageContext } from './page-finding';

/** Script holds the page's only thread. */
export const longTask = defineRule({
  rule: 'long-task',
  name: 'Long task',
  looksFor: 'A task of more than 50 ms of the page’s thread that is on the way to the largest paint.',
  thresholds: [
    {
      name: 'a task is long',
      value: `over ${LONG_TASK_MS} ms`,
      why: 'W3C Long Tasks: an input meanwhile is answered too late.'
    },
    OF_THE_WAY
  ],
  why: 'While it runs nothing is painted, and no click is answered.',
  doThis: [
    'Open its profile, and look for the function that takes most of it.',
    'Do less of it before the first picture, or in parts with pauses, or in a worker.'
  ],
  seeAlso: 'profile',
  find
});

function find(context: PageContext): FoundInPage[] {
  const { load, chain } = context;
  return chain.flatMap((step): FoundInPage[] => {
    if (step.of !== 'task') return [];
    const bookedMs = step.toMs - step.fromMs;
    const { startMs, endMs, script, function: name } = load.tasks[step.index];
    if (endMs - startMs <= LONG_TASK_MS || !isMuch(bookedMs, context)) return [];
    const file = script && fileName(script);
    const who = name ? [name, file && `(${file})`].filter(Boolean).join(' ') : file;
    return [
      {
        title: `A task of ${inMs(endMs - startMs)}`,
        severity: severityOf(bookedMs, load.largest!.atMs),
        sentence: `${who || 'A task, of which the browser tells no script,'} held the page for ${inMs(endMs - startMs)}; ${inMs(bookedMs)} of it, ${formatShare(bookedMs / load.largest!.atMs)}, are on the way to the largest paint.`,
        remedy: 'See what it computes, and do less of it before the first picture.',
        figures: { taskMs: endMs - startMs, bookedMs },
        evidence: { resources: [], tasks: [step.index] },
        cost: bookedMs * 1e6
      }
    ];
  });
}
