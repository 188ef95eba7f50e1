import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { classify } from './frame-kind';
import type { Frame, Profile } from './model';

interface V8CallFrame {
  functionName: string;
  url: string;
  lineNumber: number;
  columnNumber: number;
}
interface V8Node {
  id: number;
  callFrame: V8CallFrame;
  children?: number[];
  parent?: number;
}
interface V8Profile {
  nodes: V8Node[];
  startTime: number;
  endTime: number;
  samples: number[];
  timeDeltas: number[];
}

export interface V8CpuProfile {
  profile: Profile;
  /** The engine's clock at the start, microseconds; its zero is not the epoch. */
  startTimeUs: number;
  warnings: Warning[];
}

/**
 * Reads a V8 CPU profile: the `Profiler.Profile` type of the Chrome DevTools Protocol (nodes, samples and time deltas in microseconds).
 * Sample i lasts until sample i + 1, the last until the end. Samples out of order are sorted and counted.
 * @throws EvidenceError `json-damaged`, `not-a-profile`.
 */
export function readV8CpuProfile(text: string): V8CpuProfile {
  const raw = parse(text);
  const warnings = new Warnings();
  const tree = readTree(raw, warnings);
  const samples = readSamples(raw, tree.indexOf, warnings);
  const profile: Profile = {
    valueType: 'cpu',
    unit: 'nanoseconds',
    frames: tree.frames,
    nodeFrame: tree.nodeFrame,
    nodeParent: tree.nodeParent,
    nodeOutermost: markOutermost(tree.nodeFrame, tree.nodeParent),
    ...samples
  };
  return { profile, startTimeUs: raw.startTime, warnings: warnings.list() };
}

function parse(text: string): V8Profile {
  if (text.trim() === '') throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch (cause) {
    const at = /position (\d+)/.exec((cause as Error).message)?.[1];
    throw new EvidenceError(
      'json-damaged',
      `Expected a V8 CPU profile in JSON, but it does not parse: ${(cause as Error).message}. Save it again whole.`,
      at === undefined ? undefined : Number(at)
    );
  }
  const profile = raw as V8Profile;
  const lacks = (what: string): EvidenceError =>
    new EvidenceError(
      'not-a-profile',
      `Expected a V8 CPU profile, but ${what}. Record one with the inspector's Profiler, or with node --cpu-prof.`
    );
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw)) throw lacks('the JSON is no object');
  if (!Array.isArray(profile.nodes) || profile.nodes.length === 0) throw lacks('it has no list of nodes');
  if (!Array.isArray(profile.samples) || !Array.isArray(profile.timeDeltas))
    throw lacks('it has no samples with time deltas');
  if (!Number.isFinite(profile.startTime) || !Number.isFinite(profile.endTime))
    throw lacks('it has no start and end time');
  for (const node of profile.nodes) {
    if (typeof node?.id !== 'number' || typeof node.callFrame !== 'object' || node.callFrame === null)
      throw lacks('one of its nodes has no id or call frame');
  }
  return profile;
}

interface Tree {
  frames: Frame[];
  nodeFrame: Int32Array;
  nodeParent: Int32Array;
  /** V8 node id → node. */
  indexOf: Map<number, number>;
}

/** Lays the nodes out parents first, so that later passes need no recursion however deep the stacks are. */
function readTree(raw: V8Profile, warnings: Warnings): Tree {
  const position = new Map<number, number>();
  raw.nodes.forEach((node, i) => position.set(node.id, i));
  const parentOf = new Int32Array(raw.nodes.length).fill(-1);
  const childrenOf: number[][] = raw.nodes.map(() => []);
  const link = (parent: number, child: number): void => {
    if (parentOf[child] >= 0 || parent === child) return;
    parentOf[child] = parent;
    childrenOf[parent].push(child);
  };
  raw.nodes.forEach((node, i) => {
    for (const id of node.children ?? []) {
      const child = position.get(id);
      if (child === undefined)
        warnings.add('unknown-child', 'A node names a child that is not in the profile; it was left out.');
      else link(i, child);
    }
    const parent = node.parent === undefined ? undefined : position.get(node.parent);
    if (parent !== undefined) link(parent, i);
  });
  const count = raw.nodes.length;
  const nodeFrame = new Int32Array(count);
  const nodeParent = new Int32Array(count).fill(-1);
  const indexOf = new Map<number, number>();
  const frames: Frame[] = [];
  const frameIndex = new Map<string, number>();
  let size = 0;
  const queue: number[] = [];
  const place = (at: number, parent: number): void => {
    const node = raw.nodes[at];
    nodeFrame[size] = frameOf(node.callFrame, frames, frameIndex);
    nodeParent[size] = parent;
    indexOf.set(node.id, size++);
    queue.push(at);
  };
  const rootAt = Math.max(
    0,
    raw.nodes.findIndex((node, i) => parentOf[i] < 0 && node.callFrame.functionName === '(root)')
  );
  place(rootAt, -1);
  for (let i = 0; i < queue.length; i++) {
    const parent = indexOf.get(raw.nodes[queue[i]].id)!;
    for (const child of childrenOf[queue[i]]) if (!indexOf.has(raw.nodes[child].id)) place(child, parent);
    if (i !== queue.length - 1) continue;
    const stray = raw.nodes.findIndex((node, at) => parentOf[at] < 0 && !indexOf.has(node.id));
    if (stray < 0) continue;
    warnings.add('stray-node', 'A node hangs under no other; it was put below the root.');
    place(stray, 0);
  }
  return {
    frames,
    nodeFrame: nodeFrame.subarray(0, size),
    nodeParent: nodeParent.subarray(0, size),
    indexOf
  };
}

function frameOf(call: V8CallFrame, frames: Frame[], index: Map<string, number>): number {
  const name =
    typeof call.functionName === 'string' && call.functionName !== '' ? call.functionName : '(anonymous)';
  const file = typeof call.url === 'string' ? call.url : '';
  // V8 counts lines and columns from 0, −1 where there are none.
  const line = Number.isInteger(call.lineNumber) ? call.lineNumber + 1 : 0;
  const column = Number.isInteger(call.columnNumber) ? call.columnNumber + 1 : 0;
  const key = `${name}\u0000${file}\u0000${line}\u0000${column}`;
  const known = index.get(key);
  if (known !== undefined) return known;
  frames.push({ name, file, line, column, ...classify(name, file) });
  index.set(key, frames.length - 1);
  return frames.length - 1;
}

function readSamples(
  raw: V8Profile,
  indexOf: Map<number, number>,
  warnings: Warnings
): Pick<Profile, 'sampleNode' | 'sampleTime' | 'sampleWeight' | 'durationNs'> {
  const count = Math.min(raw.samples.length, raw.timeDeltas.length);
  if (raw.samples.length !== raw.timeDeltas.length) {
    warnings.add(
      'samples-without-delta',
      'There are not as many time deltas as samples; the surplus was left out.',
      Math.abs(raw.samples.length - raw.timeDeltas.length)
    );
  }
  let node = new Int32Array(count);
  let time = new Float64Array(count);
  let at = 0;
  let unsorted = 0;
  let unknown = 0;
  for (let i = 0; i < count; i++) {
    const delta = raw.timeDeltas[i];
    if (delta < 0) unsorted++;
    at += delta * 1000;
    time[i] = at;
    const found = indexOf.get(raw.samples[i]);
    if (found === undefined) unknown++;
    node[i] = found ?? 0;
  }
  if (unknown > 0)
    warnings.add(
      'unknown-node',
      'A sample names a node that is not in the profile; it was counted at the root.',
      unknown
    );
  if (unsorted > 0) {
    warnings.add(
      'negative-delta',
      'A sample lies before the one it follows; the samples were sorted by time.',
      unsorted
    );
    const order = Array.from({ length: count }, (_, i) => i).sort((a, b) => time[a] - time[b]);
    node = Int32Array.from(order, (i) => node[i]);
    time = Float64Array.from(order, (i) => time[i]);
  }
  const begin = count > 0 ? Math.min(0, time[0]) : 0;
  if (begin < 0) for (let i = 0; i < count; i++) time[i] -= begin;
  const last = count > 0 ? time[count - 1] : 0;
  const durationNs = Math.max((raw.endTime - raw.startTime) * 1000 - begin, last);
  const weight = new Float64Array(count);
  for (let i = 0; i < count; i++) weight[i] = (i + 1 < count ? time[i + 1] : durationNs) - time[i];
  return { sampleNode: node, sampleTime: time, sampleWeight: weight, durationNs };
}

/** 1 for nodes above which the same function does not run. A walk with one counter a function, no recursion. */
export function markOutermost(nodeFrame: Int32Array, nodeParent: Int32Array): Uint8Array {
  const outermost = new Uint8Array(nodeFrame.length);
  const { firstChild, nextSibling } = childLinks(nodeParent);
  const running = new Int32Array(nodeFrame.reduce((max, frame) => Math.max(max, frame), 0) + 1);
  let node = nodeFrame.length > 0 ? 0 : -1;
  while (node >= 0) {
    if (running[nodeFrame[node]]++ === 0) outermost[node] = 1;
    if (firstChild[node] >= 0) {
      node = firstChild[node];
      continue;
    }
    while (node >= 0) {
      running[nodeFrame[node]]--;
      if (nextSibling[node] >= 0) {
        node = nextSibling[node];
        break;
      }
      node = nodeParent[node];
    }
  }
  return outermost;
}

/** Linked lists of children for a tree given by parents (parents first); −1 ends a list. */
export function childLinks(nodeParent: Int32Array): { firstChild: Int32Array; nextSibling: Int32Array } {
  const firstChild = new Int32Array(nodeParent.length).fill(-1);
  const nextSibling = new Int32Array(nodeParent.length).fill(-1);
  for (let node = nodeParent.length - 1; node > 0; node--) {
    nextSibling[node] = firstChild[nodeParent[node]];
    firstChild[nodeParent[node]] = node;
  }
  return { firstChild, nextSibling };
}
