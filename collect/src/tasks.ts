import { TASK, TASK_SPAN } from '@tromix/core/pages/wire';
import type { SentSpan } from './resources';

/** W3C Long Animation Frames, as far as it is read here; no library of types has it yet. */
interface FrameEntry extends PerformanceEntry {
  scripts?: {
    startTime: number;
    duration: number;
    sourceURL: string;
    sourceFunctionName: string;
    invoker: string;
  }[];
}

/** Long tasks with the script that took most of each, where a frame tells of it. @param originMs where the load begins on the browser's clock */
export const taskSpans = (
  tasks: readonly PerformanceEntry[],
  frames: readonly PerformanceEntry[],
  originMs: number
): SentSpan[] => {
  const scripts = (frames as FrameEntry[]).flatMap(({ scripts = [] }) => scripts);
  return tasks.map(({ startTime, duration }) => {
    const endTime = startTime + duration;
    let most = 0;
    let longest: (typeof scripts)[number] | undefined;
    for (const script of scripts) {
      const inside =
        Math.min(endTime, script.startTime + script.duration) - Math.max(startTime, script.startTime);
      if (inside <= most) continue;
      most = inside;
      longest = script;
    }
    return {
      name: TASK_SPAN,
      startMs: startTime - originMs,
      endMs: endTime - originMs,
      attributes: {
        [TASK.script]: longest?.sourceURL,
        // Of a script as a whole the invoker is its address, which is told already.
        [TASK.function]:
          longest?.sourceFunctionName || (longest?.invoker === longest?.sourceURL ? '' : longest?.invoker)
      }
    };
  });
};
