import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { FrameTable } from './frame-table';
import type { Profile } from './model';
import { StackBuilder } from './stack-builder';

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

/**
 * Reads folded stacks (`a;b;c 42`). A frame may name its place as `name (file:line)` or `name (file:line:column)`.
 * The weight is a count: the format does not say of what.
 * @throws EvidenceError `empty`, `not-folded`.
 */
export function readFolded(text: string): { profile: Profile; warnings: Warning[] } {
  if (text.trim() === '') throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  const warnings = new Warnings();
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const known = new Map<string, number>();
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
    for (const name of found[1].split(';')) {
      let frame = known.get(name);
      if (frame === undefined) known.set(name, (frame = frameOf(table, name)));
      last = builder.child(last, frame);
    }
    node.push(last);
    weight.push(count);
  }
  if (node.length === 0)
    throw new EvidenceError(
      'not-folded',
      'Expected folded stacks (one stack a line, frames parted by semicolons, then a weight), but found no such line.',
      0
    );
  const profile: Profile = {
    valueType: 'cpu',
    unit: 'count',
    frames: table.frames,
    ...builder.tree(table.frames.length),
    sampleNode: Int32Array.from(node),
    sampleTime: new Float64Array(node.length),
    sampleWeight: Float64Array.from(weight),
    sampleThread: null,
    threads: ['all threads'],
    durationNs: 0,
    ticks: null
  };
  return { profile, warnings: warnings.list() };
}

const PLACED = /^(.*\S)\s+\(([^()]+?)(?::(\d+))?(?::(\d+))?\)$/;

function frameOf(table: FrameTable, text: string): number {
  const trimmed = text.trim() || '(anonymous)';
  const placed = PLACED.exec(trimmed);
  if (!placed) return table.indexOf(trimmed, '', 0, 0, kindWithoutFile(trimmed));
  const [, name, file, line = '0', column = '0'] = placed;
  return table.indexOf(name, file, Number(line), Number(column));
}

/** Without a file nothing tells whose code a frame is: it counts as the application's, but for the engine's own states. */
function kindWithoutFile(name: string): { kind: 'app' | 'idle' | 'gc' | 'program'; package: string } {
  const kind =
    name === '(idle)'
      ? 'idle'
      : name === '(garbage collector)'
        ? 'gc'
        : name === '(program)'
          ? 'program'
          : 'app';
  return { kind, package: '' };
}
