import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { parseWithNumberArrays } from '../formats/json-number-arrays';
import { FrameTable, type V8CallFrame } from './frame-table';
import { readLineTicks, type V8PositionTick } from './line-ticks';
import type { Frame, Profile } from './model';
import { childLinks, markOutermost } from './stack-tree';

interface V8Node {
  id: number;
  callFrame: V8CallFrame;
  children?: number[];
  parent?: number;
  positionTicks?: V8PositionTick[];
}
interface V8Profile {
  nodes: V8Node[];
  startTime: number;
  endTime: number;
  samples: ArrayLike<number>;
  timeDeltas: ArrayLike<number>;
}

/** The members that make a profile large. */
const LARGE = ['samples', 'timeDeltas'];

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
  const tree = readTree(raw, warnings);
  const samples = readSamples(raw, tree.indexOf, warnings);
  const profile: Profile = {
    valueType: 'cpu',
    unit: 'nanoseconds',
    frames: tree.frames,
    nodeFrame: tree.nodeFrame,
    nodeParent: tree.nodeParent,
    nodeOutermost: markOutermost(tree.nodeFrame, tree.nodeParent, tree.frames.length),
    ...samples,
    sampleThread: null,
    threads: ['main'],
    ticks: readLineTicks(tree.nodeFrame.length, (node) => raw.nodes[tree.placed[node]].positionTicks)
  };
  return { profile, startTimeUs: raw.startTime, warnings: warnings.list() };
}

function parse(content: Uint8Array): V8Profile {
  if (content.length === 0)
    throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  let raw: unknown;
  try {
    raw = parseWithNumberArrays(content, LARGE);
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
  if (!isNumberList(profile.samples) || !isNumberList(profile.timeDeltas))
    throw lacks('it has no samples with time deltas');
  if (!Number.isFinite(profile.startTime) || !Number.isFinite(profile.endTime))
    throw lacks('it has no start and end time');
  for (const node of profile.nodes) {
    if (typeof node?.id !== 'number' || typeof node.callFrame !== 'object' || node.callFrame === null)
      throw lacks('one of its nodes has no id or call frame');
  }
  return profile;
}

const isNumberList = (value: unknown): boolean => Array.isArray(value) || value instanceof Float64Array;

interface Tree {
  frames: Frame[];
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

  constructor(nodes: readonly V8Node[]) {
    let most = 0;
    let whole = true;
    for (const { id } of nodes) {
      most = Math.max(most, id);
      whole &&= Number.isInteger(id) && id >= 0;
    }
    this.dense = whole && most <= nodes.length * 8 ? new Int32Array(most + 1).fill(-1) : null;
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
function readTree(raw: V8Profile, warnings: Warnings): Tree {
  const { nodes } = raw;
  const count = nodes.length;
  const position = new IdTable(nodes);
  for (let i = 0; i < count; i++) position.set(nodes[i].id, i);
  const parentOf = linkNodes(nodes, position, warnings);
  const { firstChild, nextSibling } = childLinks(parentOf);
  const nodeFrame = new Int32Array(count);
  const nodeParent = new Int32Array(count).fill(-1);
  const indexOf = new IdTable(nodes);
  const table = new FrameTable();
  /** Positions in the order they were placed. */
  const placed = new Int32Array(count);
  let size = 0;
  const place = (at: number, parent: number): void => {
    nodeFrame[size] = table.ofCall(nodes[at].callFrame);
    nodeParent[size] = parent;
    indexOf.set(nodes[at].id, size);
    placed[size++] = at;
  };
  const isRoot = (at: number): boolean => parentOf[at] < 0;
  const rootAt = Math.max(
    0,
    nodes.findIndex((node, at) => isRoot(at) && node.callFrame.functionName === '(root)')
  );
  place(rootAt, -1);
  let next = 0;
  const spread = (): void => {
    for (; next < size; next++) {
      for (let child = firstChild[placed[next]]; child >= 0; child = nextSibling[child]) {
        if (indexOf.get(nodes[child].id) < 0) place(child, next);
      }
    }
  };
  spread();
  for (let at = 0; at < count && size < count; at++) {
    if (!isRoot(at) || indexOf.get(nodes[at].id) >= 0) continue;
    warnings.add('stray-node', 'A node hangs under no other; it was put below the root.');
    place(at, 0);
    spread();
  }
  return {
    frames: table.frames,
    nodeFrame: nodeFrame.subarray(0, size),
    nodeParent: nodeParent.subarray(0, size),
    indexOf,
    placed
  };
}

/** The position of each node's parent, −1 for a root. V8 writes children, some writers a parent; the first link counts. */
function linkNodes(nodes: readonly V8Node[], position: IdTable, warnings: Warnings): Int32Array {
  const parentOf = new Int32Array(nodes.length).fill(-1);
  for (let i = 0; i < nodes.length; i++) {
    const { children, parent } = nodes[i];
    if (children) {
      for (const id of children) {
        const child = position.get(id);
        if (child < 0)
          warnings.add('unknown-child', 'A node names a child that is not in the profile; it was left out.');
        else if (parentOf[child] < 0 && child !== i) parentOf[child] = i;
      }
    }
    if (parent === undefined || parentOf[i] >= 0) continue;
    const above = position.get(parent);
    if (above >= 0 && above !== i) parentOf[i] = above;
  }
  return parentOf;
}

function readSamples(
  raw: V8Profile,
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
  let node = new Int32Array(count);
  let time = new Float64Array(count);
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
