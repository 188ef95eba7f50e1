import { formatBytes, formatCount } from '@tromix/core/text/format';
import type { Result } from './inspect';
import { kindOnCommandLine } from './kinds';

/** A result as lines for a terminal. */
export function* summarise(result: Result): Generator<string> {
  if ('error' in result) {
    yield `${result.file}\n  could not be read: ${result.error.message}\n`;
    return;
  }
  yield `${[result.file].flat().join(', ')}\n  ${result.kind}, ${formatBytes(result.bytes)}\n`;
  for (const { message, count } of result.warnings) yield `  warning (${formatCount(count)}×): ${message}\n`;
  for (const line of kindOnCommandLine(result.kind).lines(result)) yield `${line}\n`;
}
