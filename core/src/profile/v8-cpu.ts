import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { damagedJson } from '../formats/parse-json';
import { lineTicks } from './line-ticks';
import type { Profile } from './model';
import { childLinks, markOutermost } from './stack-tree';
import { NotAProfile, readV8Document, type CountedCalls, type V8Document, type V8Nodes } from './v8-document';

export interface V8CpuProfile {
  profile: Profile;
  /** The engine's clock at the start, microseconds; its zero is not the epoch. */
  startTimeUs: number;
  warnings: Warning[];
}

/**
 * Reads a V8 CPU profile: the `Profiler.Profile` type of the Chrome DevTools Protocol (nodes, samples and time deltas in microseconds).
 * Sample i lasts until sample i + 1, the last until the end. Samples out of order are sorted and counted.
 * @param content the file's bytes, UTF-8, not gzip.
 * @throws EvidenceError `empty`, `json-damaged`, `not-a-profile`.
 */
export function readV8CpuProfile(content: Uint8Array): V8CpuProfile {
  const raw = parse(content);
  const warnings = new Warnings();
  return { profile: profileOfDocument(raw, warnings), startTimeUs: raw.startTime, warnings: warnings.list() };
}

/** The profile of what V8 says: what does not fit together is left out, and counted. */
export function profileOfDocument(raw: V8Document, warnings: Warnings): Profile {
  const tree = readTree(raw.nodes, warnings);
  const samples = readSamples(raw, tree.indexOf, warnings);
  return {
    valueType: 'cpu',
    unit: 'nanoseconds',
    frames: raw.nodes.frames,
    nodeFrame: tree.nodeFrame,
    nodeParent: tree.nodeParent,
    nodeOutermost: markOutermost(tree.nodeFrame, tree.nodeParent, raw.nodes.frames.length),
    ...samples,
    sampleThread: null,
    threads: ['main'],
    ticks: lineTicks(tree.placed, raw.nodes),
    ...(raw.calls ? { calls: callsByFrame(raw.calls, raw.nodes.frames.length) } : {})
  };
}

function callsByFrame(calls: readonly CountedCalls[], frames: number): Float64Array {
  const byFrame = new Float64Array(frames);
  for (const { frame, count } of calls) byFrame[frame] = count;
  return byFrame;
}

function parse(content: Uint8Array): V8Document {
  if (content.length === 0)
    throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  try {
    return readV8Document(content);
  } catch (cause) {
    if (cause instanceof NotAProfile)
      throw new EvidenceError(
        'not-a-profile',
        `Expected a V8 CPU profile, but ${cause.message}. Record one with the inspector's Profiler, or with node --cpu-prof.`
      );
    throw damagedJson(cause, 'a V8 CPU profile in JSON', 'Save it again whole.');
  }
}

interface Tree {
  nodeFrame: Int32Array;
  nodeParent: Int32Array;
  /** V8 node id → node. */
  indexOf: IdTable;
  /** Node → position in the file. */
  placed: Int32Array;
}

/** Numbers by V8 node id. Ids are small and dense in what V8 writes: then a plain array serves, else a Map. */
class IdTable {
  /** Null where ids are sparse. Samples look theirs up directly: there are very many. */
  readonly dense: Int32Array | null;
  readonly #sparse = new Map<number, number>();

  constructor(ids: readonly number[]) {
    let most = 0;
    let whole = true;
    for (const id of ids) {
      most = Math.max(most, id);
      whole &&= Number.isInteger(id) && id >= 0;
    }
    this.dense = whole && most <= ids.length * 8 ? new Int32Array(most + 1).fill(-1) : null;
  }

  set(id: number, value: number): void {
    if (this.dense) this.dense[id] = value;
    else this.#sparse.set(id, value);
  }

  /** −1 where the id is not known. */
  get(id: number): number {
    return (this.dense ? this.dense[id] : this.#sparse.get(id)) ?? -1;
  }
}

/** Lays the nodes out parents first, so that later passes need no recursion however deep the stacks are. */
function readTree(nodes: V8Nodes, warnings: Warnings): Tree {
  const { id, frame, frames } = nodes;
  const count = id.length;
  const position = new IdTable(id);
  for (let i = 0; i < count; i++) position.set(id[i], i);
  const parentOf = linkNodes(nodes, position, warnings);
  const { firstChild, nextSibling } = childLinks(parentOf);
  const nodeFrame = new Int32Array(count);
  const nodeParent = new Int32Array(count).fill(-1);
  const indexOf = new IdTable(id);
  /** Positions in the order they were placed. */
  const placed = new Int32Array(count);
  let size = 0;
  const place = (at: number, parent: number): void => {
    nodeFrame[size] = frame[at];
    nodeParent[size] = parent;
    indexOf.set(id[at], size);
    placed[size++] = at;
  };
  const isRoot = (at: number): boolean => parentOf[at] < 0;
  const rootAt = Math.max(
    0,
    frame.findIndex((one, at) => isRoot(at) && frames[one].name === '(root)')
  );
  place(rootAt, -1);
  let next = 0;
  const spread = (): void => {
    for (; next < size; next++) {
      for (let child = firstChild[placed[next]]; child >= 0; child = nextSibling[child]) {
        if (indexOf.get(id[child]) < 0) place(child, next);
      }
    }
  };
  spread();
  for (let at = 0; at < count && size < count; at++) {
    if (!isRoot(at) || indexOf.get(id[at]) >= 0) continue;
    warnings.add('stray-node', 'A node hangs under no other; it was put below the root.');
    place(at, 0);
    spread();
  }
  return {
    nodeFrame: nodeFrame.subarray(0, size),
    nodeParent: nodeParent.subarray(0, size),
    indexOf,
    placed: placed.subarray(0, size)
  };
}

/** The position of each node's parent, −1 for a root. V8 writes children, some writers a parent; the first link counts. */
function linkNodes(
  { id, parent, childStart, children }: V8Nodes,
  position: IdTable,
  warnings: Warnings
): Int32Array {
  const parentOf = new Int32Array(id.length).fill(-1);
  for (let i = 0; i < id.length; i++) {
    for (let at = childStart[i]; at < childStart[i + 1]; at++) {
      const child = position.get(children[at]);
      if (child < 0)
        warnings.add('unknown-child', 'A node names a child that is not in the profile; it was left out.');
      else if (parentOf[child] < 0 && child !== i) parentOf[child] = i;
    }
    if (Number.isNaN(parent[i]) || parentOf[i] >= 0) continue;
    const above = position.get(parent[i]);
    if (above >= 0 && above !== i) parentOf[i] = above;
  }
  return parentOf;
}

function readSamples(
  raw: V8Document,
  indexOf: IdTable,
  warnings: Warnings
): Pick<Profile, 'sampleNode' | 'sampleTime' | 'sampleWeight' | 'durationNs'> {
  const { samples, timeDeltas } = raw;
  const count = Math.min(samples.length, timeDeltas.length);
  if (samples.length !== timeDeltas.length) {
    warnings.add(
      'samples-without-delta',
      'There are not as many time deltas as samples; the surplus was left out.',
      Math.abs(samples.length - timeDeltas.length)
    );
  }
  const node = new Int32Array(count);
  const time = new Float64Array(count);
  const { dense } = indexOf;
  let at = 0;
  let unsorted = 0;
  let unknown = 0;
  for (let i = 0; i < count; i++) {
    const delta = timeDeltas[i];
    if (delta < 0) unsorted++;
    at += delta * 1000;
    time[i] = at;
    const found = dense ? (dense[samples[i]] ?? -1) : indexOf.get(samples[i]);
    if (found < 0) unknown++;
    node[i] = found < 0 ? 0 : found;
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
      'A sample is earlier than the one it follows; the samples were sorted by time.',
      unsorted
    );
    sortByTime(node, time);
  }
  const begin = count > 0 ? Math.min(0, time[0]) : 0;
  if (begin < 0) for (let i = 0; i < count; i++) time[i] -= begin;
  const last = count > 0 ? time[count - 1] : 0;
  const durationNs = Math.max((raw.endTime - raw.startTime) * 1000 - begin, last);
  const weight = new Float64Array(count);
  for (let i = 0; i < count; i++) weight[i] = (i + 1 < count ? time[i + 1] : durationNs) - time[i];
  return { sampleNode: node, sampleTime: time, sampleWeight: weight, durationNs };
}

function sortByTime(node: Int32Array, time: Float64Array): void {
  const [nodes, times] = [node.slice(), time.slice()];
  const order = Uint32Array.from(time.keys()).sort((a, b) => times[a] - times[b] || a - b);
  for (let i = 0; i < order.length; i++) {
    node[i] = nodes[order[i]];
    time[i] = times[order[i]];
  }
}
