import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { whoseAny } from '../whose/any';
import { FrameTable } from './frame-table';
import { LineCounts } from './line-counts';
import type { Profile } from './model';
import { StackBuilder } from './stack-builder';
import { unitOf } from './unit-of';

/** One stack a line, frames from the root parted by semicolons, then a space and a weight (common practice). */
const LINE = /^(.*\S)\s+(\d+(?:\.\d+)?)\s*$/;

/** True for a text most of whose lines are folded stacks. */
export function looksFolded(head: string): boolean {
  const lines = head
    .split('\n')
    .slice(0, -1)
    .concat(head.endsWith('\n') ? [] : head.split('\n').slice(-1))
    .filter((line) => line.trim() !== '' && !line.startsWith('#'))
    .slice(0, 40);
  const folded = lines.filter((line) => LINE.test(line));
  const stacks = folded.filter((line) => line.includes(';'));
  return (
    lines.length > 0 &&
    folded.length >= lines.length * 0.8 &&
    stacks.length >= Math.max(1, lines.length * 0.3)
  );
}

/** What weights may be: the format does not say it, so that whoever knows may, in a first line `# unit: microseconds` or later. */
const UNITS = ['count', 'nanoseconds', 'microseconds', 'milliseconds', 'seconds', 'bytes'];
const STATED = /^#\s*unit:\s*(\w+)\s*$/m;

/**
 * Reads folded stacks (`a;b;c 42`). A frame may name its place as `name (file:line)`, `name (file:line:column)` or `file:name:line`. In Python and Ruby the line
 * is the one being run (common practice of what writes them): functions are the same on each of their lines.
 * @param wanted the unit of the weights, of those in `measures`; '' for a mere count. What the file states stands.
 * @throws EvidenceError `empty`, `not-folded`.
 */
export function readFolded(
  text: string,
  wanted = ''
): { profile: Profile; measures: string[]; warnings: Warning[] } {
  if (text.trim() === '') throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  const stated = STATED.exec(text.slice(0, HEADER))?.[1] ?? '';
  const isStated = UNITS.includes(stated);
  const measure = isStated ? stated : UNITS.includes(wanted) ? wanted : 'count';
  const { unit, factor } = unitOf(measure)!;
  const warnings = new Warnings();
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const known = new Map<string, Placed>();
  const lines = new LineCounts();
  const node: number[] = [];
  const weight: number[] = [];
  for (let at = 0; at < text.length;) {
    const end = text.indexOf('\n', at);
    const line = text.slice(at, end < 0 ? text.length : end).trim();
    at = end < 0 ? text.length : end + 1;
    if (line === '' || line.startsWith('#')) continue;
    const found = LINE.exec(line);
    const count = found ? Number(found[2]) : NaN;
    if (!found || !Number.isFinite(count)) {
      warnings.add('no-stack', 'A line is no folded stack (frames; frames … weight); it was left out.');
      continue;
    }
    if (count === 0) continue;
    let last = 0;
    let lineOfLast = 0;
    for (const name of found[1].split(';')) {
      let placed = known.get(name);
      if (placed === undefined) known.set(name, (placed = frameOf(table, name)));
      last = builder.child(last, placed.frame);
      lineOfLast = placed.running;
    }
    node.push(last);
    weight.push(count * factor);
    if (lineOfLast > 0) lines.add(last, lineOfLast, count);
  }
  if (node.length === 0)
    throw new EvidenceError(
      'not-folded',
      'Expected folded stacks (one stack a line, frames parted by semicolons, then a weight), but found no such line.',
      0
    );
  const tree = builder.tree(table.frames.length);
  const profile: Profile = {
    // A time may be of the CPU or of a clock on the wall: it is not told.
    valueType: unit === 'count' ? 'cpu' : 'other',
    unit,
    frames: table.frames,
    ...tree,
    sampleNode: Int32Array.from(node),
    sampleTime: new Float64Array(node.length),
    sampleWeight: Float64Array.from(weight),
    sampleThread: null,
    threads: ['all threads'],
    durationNs: 0,
    ticks: lines.ticks(tree.nodeFrame.length),
    ...(unit === 'count' ? {} : { measure })
  };
  return { profile, measures: isStated ? [] : UNITS, warnings: warnings.list() };
}

/** The unit is stated before the first stack. */
const HEADER = 1000;

const PLACED = /^(.*\S)\s+\(([^()]+?)(?::(\d+))?(?::(\d+))?\)$/;
const FILE_FIRST = /^(\S.*\.\w+):([^:]+):(\d+)$/;
/** Files in which the line is the one being run. */
const BY_LINE = /\.(?:py|pyx|rb)$/;

interface Placed {
  frame: number;
  /** The line being run; 0 where it is not told. */
  running: number;
}

function frameOf(table: FrameTable, text: string): Placed {
  const trimmed = text.trim() || '(anonymous)';
  const placed = PLACED.exec(trimmed);
  const swapped = placed ? null : FILE_FIRST.exec(trimmed);
  const [name, file, line, column] = placed
    ? [placed[1], placed[2], Number(placed[3] ?? 0), Number(placed[4] ?? 0)]
    : swapped
      ? [swapped[2], swapped[1], Number(swapped[3]), 0]
      : [trimmed, '', 0, 0];
  const isRunning = BY_LINE.test(file);
  return {
    frame: table.indexOf(name, file, isRunning ? 0 : line, column, whoseAny(name, file)),
    running: isRunning ? line : 0
  };
}
