import type { ChainStep } from '@tromix/core/pages/chain';
import { shortUrl, type LoadRow } from '@tromix/core/pages/load-rows';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { formatCount, formatDuration } from '@tromix/core/text/format';

/** A line of the picture of a load: a heading, a row, or one of the things a row stands for. */
export type LoadLine =
  | { kind: 'heading'; key: string; group: string }
  | { kind: 'row'; key: string; row: LoadRow; isOpen: boolean }
  | { kind: 'member'; key: string; row: LoadRow; index: number }
  | { kind: 'rest'; key: string; row: LoadRow; count: number };

export const HEADING_PX = 21;
export const ROW_PX = 24;
/** Things of an open row that are listed one by one. */
const MOST_MEMBERS = 300;

export const heightOf = ({ kind }: LoadLine): number => (kind === 'heading' ? HEADING_PX : ROW_PX);

/** Rows under their headings, open ones with what they stand for. */
export function loadLines(rows: readonly LoadRow[], open: ReadonlySet<string>): LoadLine[] {
  const lines: LoadLine[] = [];
  let group = '';
  for (const row of rows) {
    if (row.group !== group) lines.push({ kind: 'heading', key: `= ${row.group}`, group: row.group });
    group = row.group;
    const isOpen = row.members.length > 1 && open.has(row.key);
    lines.push({ kind: 'row', key: row.key, row, isOpen });
    if (!isOpen) continue;
    for (const index of row.members.slice(0, MOST_MEMBERS))
      lines.push({ kind: 'member', key: `${row.key} ${index}`, row, index });
    const count = row.members.length - MOST_MEMBERS;
    if (count > 0) lines.push({ kind: 'rest', key: `${row.key} …`, row, count });
  }
  return lines;
}

/** A line that stands for something: no heading. */
export type ThingLine = Exclude<LoadLine, { kind: 'heading' }>;

/** When a thing of a row began and ended. */
export const timesOf = (
  { tasks, resources }: PageLoad,
  { of }: LoadRow,
  index: number
): { startMs: number; endMs: number } => (of === 'task' ? tasks[index] : resources[index]);

/** What a line is called. */
export function lineLabel(line: ThingLine, { tasks, resources }: PageLoad): string {
  if (line.kind === 'rest') return `${formatCount(line.count)} more`;
  if (line.kind === 'row') return line.row.label;
  if (line.row.of === 'resource') return shortUrl(resources[line.index].url);
  const { function: name, script } = tasks[line.index];
  return name || shortUrl(script) || 'not told by what';
}

/** A line in words, for who does not see its bar. */
export function lineWords(line: ThingLine, load: PageLoad, isOnWay: boolean): string {
  const label = lineLabel(line, load);
  if (line.kind === 'rest') return label;
  const { startMs, endMs } =
    line.kind === 'row'
      ? { startMs: line.row.fromMs, endMs: line.row.toMs }
      : timesOf(load, line.row, line.index);
  const way = line.kind === 'row' && isOnWay ? ', on the way to the largest paint' : '';
  return `${label}, from ${formatDuration(startMs * 1e6)} to ${formatDuration(endMs * 1e6)}${way}`;
}

/** Where the middle of each line lies, pixels from the top. */
export function middles(lines: readonly LoadLine[]): number[] {
  let top = 0;
  return lines.map((line) => {
    const height = heightOf(line);
    top += height;
    return top - height / 2;
  });
}

/**
 * The line through what the largest paint had to wait for: along each thing while it counts, then over to the next. What nobody knows goes along where the
 * line is.
 * @param x pixels of a moment
 */
export function wayPath(
  chain: readonly ChainStep[],
  lines: readonly LoadLine[],
  x: (ms: number) => number
): string {
  const y = middles(lines);
  const lineOf = (step: ChainStep): number => {
    if (step.of === 'nothing') return -1;
    const { of, index } = step;
    const member = lines.findIndex(
      (line) => line.kind === 'member' && line.row.of === of && line.index === index
    );
    if (member >= 0) return member;
    return lines.findIndex(
      (line) => line.kind === 'row' && line.row.of === of && line.row.members.includes(index)
    );
  };
  let last = -1;
  const points = chain.flatMap((step) => {
    const line = lineOf(step);
    if (line >= 0) last = line;
    return last < 0
      ? []
      : [`${x(step.fromMs).toFixed(1)} ${y[last]}`, `${x(step.toMs).toFixed(1)} ${y[last]}`];
  });
  return points.length === 0 ? '' : `M${points.join('L')}`;
}
