import { FrameList } from './frame-list';
import type { DumpSeries } from './model';
import { StackList } from './stack-list';

/**
 * Several files as one series: the dumps in order of time, those without a time where their file stands.
 * All must be of one runtime's kind; the format of the first is reported. Equal stacks become one array.
 * @returns the series, and for each dump the number of its part.
 */
export function joinSeries(parts: readonly DumpSeries[]): DumpSeries & { partOf: number[] } {
  const list = new FrameList(() => {
    throw new Error('Frames are joined by what they are.');
  });
  const stacks = new StackList();
  const dumps = parts.flatMap(({ frames, dumps: own }, part) => {
    const index = frames.map((frame) => list.of(frame));
    const renumbered = index.some((to, from) => to !== from);
    return own.map((dump) => ({
      part,
      ...dump,
      threads: dump.threads.map((thread) => ({
        ...thread,
        frames: stacks.of(renumbered ? thread.frames.map((frame) => index[frame]) : thread.frames)
      }))
    }));
  });
  const timed = dumps.every(({ capturedAt }) => Number.isFinite(Date.parse(capturedAt)));
  if (timed) dumps.sort((a, b) => Date.parse(a.capturedAt) - Date.parse(b.capturedAt));
  return {
    format: parts[0].format,
    frames: list.frames,
    dumps: dumps.map(({ part: _, ...dump }) => dump),
    partOf: dumps.map(({ part }) => part)
  };
}
