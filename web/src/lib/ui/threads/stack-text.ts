import type { DumpThread, ThreadFrame } from '@tromix/core/threads/model';
import { MODES } from './modes';

/** A thread and its stack as text, the innermost frame first. */
export const stackText = (
  frames: readonly ThreadFrame[],
  { name, state, mode, frames: stack }: DumpThread
): string =>
  [
    `${name} (${state || MODES[mode].name})`,
    ...Array.from(stack, (index) => {
      const { name, file, line } = frames[index];
      return `  ${name}${file ? ` (${file}${line > 0 ? `:${line}` : ''})` : ''}`;
    })
  ].join('\n');
