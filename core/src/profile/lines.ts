import type { Profile } from './model';
import type { Slice } from './slice';

export interface LineWeight {
  /** 1-based. */
  line: number;
  /** Weight of the samples that were at this line. */
  self: number;
}

/** A function at whose first line more samples were than in the function itself. */
export interface InlinedLine {
  frame: number;
  line: number;
  self: number;
  total: number;
}

export interface FunctionOnLine {
  /** 1-based line the function begins at. */
  line: number;
  frame: number;
  self: number;
  /** Weight of the samples in which it appears at least once. */
  total: number;
}

/** A source file within a selection. */
export interface FileLines {
  lines: LineWeight[];
  functions: FunctionOnLine[];
  /** Lines that weigh more than the functions that begin there: V8 put those into their callers, and gives the samples to them. Heaviest first. */
  inlined: InlinedLine[];
  /** Weight of the file's own code. */
  self: number;
  /** Part of it whose line is known only as the function's first one. */
  withoutLine: number;
}

export interface FileWeight {
  file: string;
  self: number;
  functions: number;
}

/** Files by the weight of their own code. */
export function fileWeights(profile: Profile, weights: Slice): FileWeight[] {
  const byFile = new Map<string, { self: number; frames: Set<number> }>();
  for (let node = 0; node < profile.nodeFrame.length; node++) {
    if (weights.total[node] <= 0) continue;
    const frame = profile.nodeFrame[node];
    const { file } = profile.frames[frame];
    if (file === '') continue;
    let entry = byFile.get(file);
    if (!entry) byFile.set(file, (entry = { self: 0, frames: new Set() }));
    entry.self += weights.self[node];
    entry.frames.add(frame);
  }
  return [...byFile]
    .map(([file, { self, frames }]) => ({ file, self, functions: frames.size }))
    .sort((a, b) => b.self - a.self || a.file.localeCompare(b.file));
}

/**
 * Weights by line of one file. V8 counts for each node how often each line was the one being run, but not when: within a
 * selection of time a node's weight is parted among its lines as over the whole recording.
 * @param weights of the profile's own nodes, before any shaping.
 */
export function fileLines(profile: Profile, weights: Slice, file: string): FileLines {
  const { nodeFrame, nodeOutermost, frames, ticks } = profile;
  const lines = new Map<number, number>();
  const functions = new Map<number, FunctionOnLine>();
  let self = 0;
  let withoutLine = 0;
  const add = (line: number, weight: number): void => void lines.set(line, (lines.get(line) ?? 0) + weight);
  for (let node = 0; node < nodeFrame.length; node++) {
    const frame = nodeFrame[node];
    if (frames[frame].file !== file || weights.total[node] <= 0) continue;
    let entry = functions.get(frame);
    if (!entry) functions.set(frame, (entry = { line: frames[frame].line, frame, self: 0, total: 0 }));
    entry.self += weights.self[node];
    if (nodeOutermost[node]) entry.total += weights.total[node];
    const weight = weights.self[node];
    if (weight <= 0) continue;
    self += weight;
    const [from, to] = ticks ? [ticks.start[node], ticks.start[node + 1]] : [0, 0];
    let sum = 0;
    for (let i = from; i < to; i++) sum += ticks!.ticks[i];
    for (let i = from; i < to; i++) add(ticks!.line[i], (weight * ticks!.ticks[i]) / sum);
    if (sum > 0) continue;
    withoutLine += weight;
    if (frames[frame].line > 0) add(frames[frame].line, weight);
  }
  return {
    inlined: inlinedLines(lines, functions),
    lines: [...lines].map(([line, weight]) => ({ line, self: weight })).sort((a, b) => a.line - b.line),
    functions: [...functions.values()].sort((a, b) => a.line - b.line || b.total - a.total),
    self,
    withoutLine
  };
}

/** Shares of a sample are parted among lines: less is rounding. */
const ROUNDING = 1e-6;

function inlinedLines(
  lines: ReadonlyMap<number, number>,
  functions: ReadonlyMap<number, FunctionOnLine>
): InlinedLine[] {
  const totals = new Map<number, { frame: number; total: number }>();
  for (const { line, frame, total } of functions.values()) {
    const known = totals.get(line);
    totals.set(line, { frame: known?.frame ?? frame, total: total + (known?.total ?? 0) });
  }
  return [...totals]
    .map(([line, { frame, total }]) => ({ line, frame, total, self: lines.get(line) ?? 0 }))
    .filter(({ self, total }) => self > total * (1 + ROUNDING))
    .sort((a, b) => b.self - a.self);
}
