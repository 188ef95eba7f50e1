import * as v from 'valibot';

/** A function of a script as V8's coverage tells it. Offsets count UTF-16 code units. */
const Covered = v.object({
  functionName: v.string(),
  ranges: v.pipe(v.array(v.object({ startOffset: v.number(), endOffset: v.number() })), v.minLength(1))
});
export const Coverage = v.object({
  result: v.object({
    result: v.array(v.object({ scriptId: v.string(), functions: v.array(Covered) }))
  })
});

/** Where a function begins, as samples name it: at its parameters. Lines and columns count from 0. */
export interface FunctionAround {
  name: string;
  lineNumber: number;
  columnNumber: number;
}

/**
 * The function that a line lies in: one of that name, else the innermost, else the first that begins in it; null where there is none that has run.
 * @param line counts from 0 @param name as stacks have it: `Quay.plan`, `async plan`, `new Plan`; '' where it is not known
 */
export function functionAround(
  functions: readonly v.InferOutput<typeof Covered>[],
  source: string,
  line: number,
  name: string
): FunctionAround | null {
  const lines = source.split('\n');
  if (line >= lines.length) return null;
  const begin = lines.slice(0, line).reduce((sum, { length }) => sum + length + 1, 0);
  const end = begin + lines[line].length;
  const first = begin + lines[line].search(/\S|$/);
  const inLine = functions
    .map(({ functionName, ranges: [{ startOffset, endOffset }] }) => ({
      name: functionName,
      startOffset,
      endOffset
    }))
    // The script itself is a function, too.
    .filter(({ startOffset, endOffset }) => startOffset > 0 || endOffset < source.length)
    .filter(({ startOffset, endOffset }) => startOffset <= end && endOffset > first)
    .sort((a, b) => a.endOffset - a.startOffset - (b.endOffset - b.startOffset));
  const wanted = plainName(name);
  const found =
    inLine.find((one) => wanted !== '' && one.name === wanted) ??
    inLine.find(({ startOffset }) => startOffset <= first) ??
    inLine.toSorted((a, b) => a.startOffset - b.startOffset).at(0);
  return found ? { name: found.name, ...placeAt(lines, parametersOf(source, found.startOffset)) } : null;
}

/** The name of a function without what stacks put before and behind it. */
export const plainName = (name: string): string =>
  name.startsWith('(') || name.startsWith('<')
    ? ''
    : (name
        .replace(/^(?:async|new) /, '')
        .replace(/ \[as .*\]$/, '')
        .split('.')
        .at(-1) ?? '');

const MAX_NAME = 500;
const ARROW = /^(async\s+)?[\p{ID_Start}$_][\p{ID_Continue}$]*\s*=>/u;

/** Where the parameters of a function begin: at their bracket, or at the only one of an arrow function without brackets. */
function parametersOf(source: string, from: number): number {
  const arrow = ARROW.exec(source.slice(from, from + MAX_NAME));
  if (arrow) return from + (arrow[1]?.length ?? 0);
  const at = source.indexOf('(', from);
  return at < 0 ? from : at;
}

function placeAt(lines: readonly string[], offset: number): { lineNumber: number; columnNumber: number } {
  let rest = offset;
  let lineNumber = 0;
  while (lineNumber < lines.length - 1 && rest > lines[lineNumber].length)
    rest -= lines[lineNumber++].length + 1;
  return { lineNumber, columnNumber: rest };
}
