import type { ComparedFunction, ComparedHeaps } from '@tromix/core/compare/compared-files';
import { formatBytes, formatShare } from '@tromix/core/text/format';

const MOST = 12;
/** Functions whose shares changed less than this are not listed. */
const LEAST_SHARE = 0.001;

const change = (format: (value: number) => string, value: number): string =>
  `${value < 0 ? '−' : '+'}${format(Math.abs(value))}`;

/** Two profiles as lines for a terminal. */
export function* profileLines(functions: readonly ComparedFunction[]): Generator<string> {
  yield 'profiles, by share of each';
  yield '      A self   B self   change  function';
  for (const { name, file, line, before, after } of functions
    .filter(({ before: was, after: is }) => Math.abs(is.self - was.self) >= LEAST_SHARE)
    .slice(0, MOST))
    yield `  ${formatShare(before.self).padStart(10)} ${formatShare(after.self).padStart(8)} ${change(formatShare, after.self - before.self).padStart(8)}  ${name}${file ? `  ${file}:${line}` : ''}`;
  yield '  One recording each says nothing of how much two recordings of the same release differ.';
}

/** Two heap dumps as lines for a terminal. */
export function* heapLines({ liveBytes, classes }: ComparedHeaps): Generator<string> {
  yield `heap dumps: ${formatBytes(liveBytes.before)} alive → ${formatBytes(liveBytes.after)}`;
  for (const { name, count, bytes } of classes.slice(0, MOST))
    yield `  ${change(formatBytes, bytes.after - bytes.before).padStart(10)}  ${count.before} → ${count.after}  ${name}`;
}
