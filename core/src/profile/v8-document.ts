import { JsonBytes, NotPlain } from '../formats/json-bytes';
import { FrameTable, type V8CallFrame } from './frame-table';
import type { Frame } from './model';

/** `Profiler.ProfileNode` of the Chrome DevTools Protocol. */
interface V8Node {
  id: number;
  callFrame: V8CallFrame;
  children?: number[];
  parent?: number;
  /** `Profiler.PositionTickInfo`: samples on a line, which counts from 1. */
  positionTicks?: { line: number; ticks: number }[];
}

/** Nodes by their position in the file, in lists of numbers. */
export interface V8Nodes {
  id: number[];
  /** Place in `frames`. */
  frame: number[];
  /** Node id some writers give; NaN where there is none. */
  parent: number[];
  /** Node ids of the children of node n stand at `childStart[n]` to `childStart[n + 1]`. */
  childStart: number[];
  children: number[];
  /** Likewise its line ticks. */
  tickStart: number[];
  tickLine: number[];
  ticks: number[];
  frames: Frame[];
}

/** How often a function was called. */
export interface CountedCalls {
  /** Place in the frames of the nodes. */
  frame: number;
  count: number;
}

/** What a V8 CPU profile says, before any of it is checked against the rest. */
export interface V8Document {
  /** Counted calls, where the recorder counted them; null where nobody did. */
  calls: CountedCalls[] | null;
  nodes: V8Nodes;
  startTime: number;
  endTime: number;
  samples: ArrayLike<number>;
  timeDeltas: ArrayLike<number>;
}

/** The JSON is no profile; the message says what it lacks. */
export class NotAProfile extends Error {}

/**
 * Reads the members of a V8 CPU profile: straight from the bytes where they are as V8 writes them, else by the JSON parser.
 * @throws SyntaxError as `JSON.parse` does; NotAProfile.
 */
export function readV8Document(content: Uint8Array): V8Document {
  try {
    return new PlainReader(content).read();
  } catch (cause) {
    if (!(cause instanceof NotPlain)) throw cause;
    return fromParsed(JSON.parse(new TextDecoder().decode(content)));
  }
}

const key = (name: string): Uint8Array => new TextEncoder().encode(name);
const NODES = key('nodes');
const START = key('startTime');
const END = key('endTime');
const SAMPLES = key('samples');
const DELTAS = key('timeDeltas');
const ID = key('id');
const CALL_FRAME = key('callFrame');
const CHILDREN = key('children');
const PARENT = key('parent');
const TICKS = key('positionTicks');
const CALLS = key('functionCalls');
const LINE = key('line');
const COUNT = key('ticks');

/** Nodes to be filled. */
export const noNodes = (): Omit<V8Nodes, 'frames'> => ({
  id: [],
  frame: [],
  parent: [],
  childStart: [0],
  children: [],
  tickStart: [0],
  tickLine: [],
  ticks: []
});

class PlainReader {
  readonly #json: JsonBytes;
  readonly #frames: CallFrames;
  readonly #table = new FrameTable();
  #nodes: Omit<V8Nodes, 'frames'> | null = null;

  constructor(content: Uint8Array) {
    this.#json = new JsonBytes(content);
    this.#frames = new CallFrames(this.#json, this.#table);
  }

  read(): V8Document {
    const json = this.#json;
    let startTime = NaN;
    let endTime = NaN;
    let samples: ArrayLike<number> | null = null;
    let timeDeltas: ArrayLike<number> | null = null;
    let calls: CountedCalls[] | null = null;
    for (let more = json.openObject(); more; more = json.moreMembers()) {
      json.key();
      if (json.isKey(SAMPLES)) samples = json.numbers();
      else if (json.isKey(DELTAS)) timeDeltas = json.numbers();
      else if (json.isKey(START)) startTime = Number(json.value());
      else if (json.isKey(END)) endTime = Number(json.value());
      else if (json.isKey(NODES)) this.#readNodes();
      else if (json.isKey(CALLS)) calls = callsFrom(json.value(), this.#table);
      else json.value();
    }
    json.end();
    const nodes = this.#nodes;
    if (
      !nodes ||
      nodes.id.length === 0 ||
      !samples ||
      !timeDeltas ||
      !isFinite(startTime) ||
      !isFinite(endTime)
    )
      throw new NotPlain(json.at);
    return {
      nodes: { ...nodes, frames: this.#table.frames },
      calls,
      startTime,
      endTime,
      samples,
      timeDeltas
    };
  }

  #readNodes(): void {
    // Of two members of one name the last counts: too rare to be read here.
    if (this.#nodes) throw new NotPlain(this.#json.at);
    const nodes = (this.#nodes = noNodes());
    const json = this.#json;
    for (let more = json.openList(); more; more = json.moreItems()) this.#readNode(nodes);
  }

  #readNode(nodes: Omit<V8Nodes, 'frames'>): void {
    const json = this.#json;
    let id = NaN;
    let frame = -1;
    let parent = NaN;
    const { children, tickLine } = nodes;
    const [childrenBefore, ticksBefore] = [children.length, tickLine.length];
    for (let more = json.openObject(); more; more = json.moreMembers()) {
      json.key();
      if (json.isKey(ID)) id = json.whole();
      else if (json.isKey(CALL_FRAME)) frame = this.#frames.next();
      else if (json.isKey(CHILDREN)) {
        if (children.length > childrenBefore) throw new NotPlain(json.at);
        for (let child = json.openList(); child; child = json.moreItems()) children.push(json.whole());
      } else if (json.isKey(PARENT)) parent = json.whole();
      else if (json.isKey(TICKS)) {
        if (tickLine.length > ticksBefore) throw new NotPlain(json.at);
        for (let tick = json.openList(); tick; tick = json.moreItems()) this.#readTick(nodes);
      } else json.value();
    }
    if (Number.isNaN(id) || frame < 0) throw new NotPlain(json.at);
    nodes.id.push(id);
    nodes.frame.push(frame);
    nodes.parent.push(parent);
    nodes.childStart.push(children.length);
    nodes.tickStart.push(tickLine.length);
  }

  #readTick({ tickLine, ticks }: Omit<V8Nodes, 'frames'>): void {
    const json = this.#json;
    let line = 0;
    let count = 0;
    for (let more = json.openObject(); more; more = json.moreMembers()) {
      json.key();
      if (json.isKey(LINE)) line = json.whole();
      else if (json.isKey(COUNT)) count = json.whole();
      else json.value();
    }
    tickLine.push(line);
    ticks.push(count);
  }
}

/** Closing braces within one call frame before it is taken for damaged. */
const MAX_BRACES = 16;
/** Bytes of a call frame looked at for its hash: so many apart. */
const STRIDE = 8;

/** Frames of call frames by the very bytes that tell them: a profile says the same function in many nodes. */
class CallFrames {
  readonly #json: JsonBytes;
  readonly #table: FrameTable;
  readonly #view: DataView;
  /** Hash → those met, each as where it lies and its frame. */
  readonly #known = new Map<number, { from: number; to: number; frame: number }[]>();

  constructor(json: JsonBytes, table: FrameTable) {
    this.#json = json;
    this.#table = table;
    this.#view = new DataView(json.bytes.buffer, json.bytes.byteOffset, json.bytes.byteLength);
  }

  next(): number {
    const json = this.#json;
    json.likelyObject();
    for (let braces = 0; braces < MAX_BRACES; braces++, json.further()) {
      const { from, to } = json;
      const hash = this.#hash(from, to);
      const met = this.#known.get(hash);
      // Equal bytes are the whole object: one that is whole ends nowhere else.
      for (const one of met ?? []) if (this.#same(one.from, one.to, from, to)) return one.frame;
      const call = this.#read(from, to);
      if (call === null) continue;
      const frame = this.#table.ofCall(call);
      if (met) met.push({ from, to, frame });
      else this.#known.set(hash, [{ from, to, frame }]);
      return frame;
    }
    throw new NotPlain(json.from);
  }

  /** Null where the brace did not end the object. */
  #read(from: number, to: number): V8CallFrame | null {
    try {
      return this.#json.parsed(from, to) as V8CallFrame;
    } catch (cause) {
      if (cause instanceof NotPlain) return null;
      throw cause;
    }
  }

  #hash(from: number, to: number): number {
    let hash = to - from;
    for (let at = from; at + 4 <= to; at += STRIDE)
      hash = Math.imul(hash ^ this.#view.getInt32(at, true), 0x9e3779b1);
    return hash;
  }

  #same(a: number, aTo: number, b: number, bTo: number): boolean {
    if (aTo - a !== bTo - b) return false;
    const view = this.#view;
    for (; a + 4 <= aTo; a += 4, b += 4) if (view.getInt32(a) !== view.getInt32(b)) return false;
    for (; a < aTo; a++, b++) if (view.getUint8(a) !== view.getUint8(b)) return false;
    return true;
  }
}

function fromParsed(raw: unknown): V8Document {
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw))
    throw new NotAProfile('the JSON is no object');
  const { nodes, samples, timeDeltas, startTime, endTime, functionCalls } = raw as Record<string, unknown>;
  if (!Array.isArray(nodes) || nodes.length === 0) throw new NotAProfile('it has no list of nodes');
  if (!Array.isArray(samples) || !Array.isArray(timeDeltas))
    throw new NotAProfile('it has no samples with time deltas');
  if (!Number.isFinite(startTime) || !Number.isFinite(endTime))
    throw new NotAProfile('it has no start and end time');
  const table = new FrameTable();
  const read = nodesFrom(nodes as V8Node[], table);
  return {
    calls: functionCalls === undefined ? null : callsFrom(functionCalls, table),
    nodes: read,
    startTime: startTime as number,
    endTime: endTime as number,
    samples: samples as number[],
    timeDeltas: timeDeltas as number[]
  };
}

function nodesFrom(list: readonly V8Node[], table: FrameTable): V8Nodes {
  const nodes = noNodes();
  for (const node of list) {
    if (typeof node?.id !== 'number' || typeof node.callFrame !== 'object' || node.callFrame === null)
      throw new NotAProfile('one of its nodes has no id or call frame');
    nodes.id.push(node.id);
    nodes.frame.push(table.ofCall(node.callFrame));
    nodes.parent.push(node.parent ?? NaN);
    if (Array.isArray(node.children)) for (const child of node.children) nodes.children.push(child);
    nodes.childStart.push(nodes.children.length);
    if (Array.isArray(node.positionTicks))
      for (const tick of node.positionTicks) {
        nodes.tickLine.push(tick?.line);
        nodes.ticks.push(tick?.ticks);
      }
    nodes.tickStart.push(nodes.tickLine.length);
  }
  return { ...nodes, frames: table.frames };
}

/** Calls as the recorder writes them: `{ callFrame, count }` each. What is none is passed over; one function named twice adds up. */
function callsFrom(list: unknown, table: FrameTable): CountedCalls[] | null {
  if (!Array.isArray(list)) return null;
  const counts = new Map<number, number>();
  for (const one of list as ({ callFrame?: V8CallFrame; count?: number } | null)[]) {
    const { callFrame, count } = one ?? {};
    if (typeof callFrame !== 'object' || callFrame === null) continue;
    if (typeof count !== 'number' || !Number.isSafeInteger(count) || count < 0) continue;
    const frame = table.ofCall(callFrame);
    counts.set(frame, (counts.get(frame) ?? 0) + count);
  }
  return [...counts].map(([frame, count]) => ({ frame, count }));
}
