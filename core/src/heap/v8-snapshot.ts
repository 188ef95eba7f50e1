import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { ByteCursor, EndOfBytes, type ByteSource } from './byte-source';
import type { HeapClass, RootKind } from './graph';
import { Growing } from './growing';
import type { HeapDump } from './heap-index';
import type { ReadOptions } from './hprof-read';
import { JsonScan } from './json-scan';

/** The head of a snapshot tells its own fields, which differ between versions of V8. */
interface SnapshotMeta {
  node_fields: string[];
  node_types: [string[], ...unknown[]];
  edge_fields: string[];
  edge_types: [string[], ...unknown[]];
}
interface SnapshotHead {
  meta: SnapshotMeta;
  node_count?: number;
  edge_count?: number;
}

/** Constructors of the language and of the runtime (ECMA-262; Node.js and web platform). */
const BUILT_IN =
  /^(?:Object|Array|Map|Set|WeakMap|WeakSet|WeakRef|Promise|Function|AsyncFunction|GeneratorFunction|String|Number|Boolean|Symbol|BigInt|Date|RegExp|Error|\w+Error|ArrayBuffer|SharedArrayBuffer|DataView|\w+Array|Buffer|URL|URLSearchParams|EventEmitter|Socket|Server|IncomingMessage|ServerResponse|ReadableState|WritableState|global.*|Module|process|Iterator|Generator|AbortController|AbortSignal|Event|EventTarget|Timeout|Immediate|system \/ .*|Node \/ .*|\(.*\)|)$/;

/** Texts decoded at most for class names. */
const MAX_NAME = 200;

export interface ReadSnapshot {
  dump: HeapDump;
  /** Where each text of the snapshot begins. */
  textPosition: Float64Array;
  warnings: Warning[];
}

/**
 * Reads a V8 heap snapshot as a stream (source of the form: the snapshot's own `meta`, and V8's `heap-snapshot-generator`, from
 * memory). Weak references do not keep alive; shortcuts are followed from the root only.
 * @throws EvidenceError `not-snapshot`, `not-json`, `truncated`.
 */
export function readV8Snapshot(source: ByteSource, options: ReadOptions = {}): ReadSnapshot {
  const cursor = new ByteCursor(source);
  const reader = new SnapshotReader(source, new JsonScan(cursor), options);
  try {
    reader.read();
  } catch (cause) {
    if (!(cause instanceof EndOfBytes)) throw cause;
    throw new EvidenceError(
      'truncated',
      `The snapshot ends at byte ${cause.at}, before its texts do: it is cut off, or still being written. Without them no class has a name; take it again.`,
      cause.at
    );
  }
  return reader.finish();
}

class SnapshotReader {
  readonly #source: ByteSource;
  readonly #scan: JsonScan;
  readonly #options: ReadOptions;
  readonly #warnings = new Warnings();
  #head: SnapshotHead | null = null;
  #type = new Growing(Uint8Array, 16);
  #name = new Growing(Uint32Array, 16);
  #id = new Growing(Float64Array, 16);
  #shallow = new Growing(Uint32Array, 16);
  #allStart = new Growing(Uint32Array, 16);
  #edgeTo = new Growing(Uint32Array, 16);
  #edgeType = new Growing(Uint8Array, 16);
  #edgeName = new Growing(Uint32Array, 16);
  #edgeStart = new Uint32Array();
  readonly #weakFrom = new Growing(Uint32Array);
  readonly #weakTo = new Growing(Uint32Array);
  readonly #texts = new Growing(Float64Array);

  constructor(source: ByteSource, scan: JsonScan, options: ReadOptions) {
    this.#source = source;
    this.#scan = scan;
    this.#options = options;
  }

  read(): void {
    for (const key of this.#scan.keys()) {
      if (key === 'snapshot') this.#head = readMeta(this.#scan.value());
      else if (key === 'nodes') this.#nodes();
      else if (key === 'edges') this.#edges();
      else if (key === 'strings') this.#scan.strings((position) => this.#texts.push(position));
      else this.#scan.skip();
      this.#options.onprogress?.(key === 'nodes' ? 0.3 : key === 'edges' ? 0.8 : 0.95);
    }
  }

  #meta(): SnapshotHead {
    if (!this.#head) throw notSnapshot('its lists come before its head');
    return this.#head;
  }

  #nodes(): void {
    const { meta, node_count: expected = 0 } = this.#meta();
    const { length } = meta.node_fields;
    const field = (name: string): number => meta.node_fields.indexOf(name);
    const [type, name, id, size, edges] = ['type', 'name', 'id', 'self_size', 'edge_count'].map(field);
    // A head that claims too much must not take the memory: two bytes are the least a number needs.
    const hint = Math.min(expected, Math.floor(this.#source.length / (length * 2)));
    this.#type = new Growing(Uint8Array, hint);
    this.#name = new Growing(Uint32Array, hint);
    this.#id = new Growing(Float64Array, hint);
    this.#shallow = new Growing(Uint32Array, hint);
    this.#allStart = new Growing(Uint32Array, hint + 1);
    let sum = 0;
    const left = this.#scan.numbers(length, (fields) => {
      this.#type.push(fields[type]);
      this.#name.push(fields[name]);
      this.#id.push(fields[id]);
      this.#shallow.push(fields[size]);
      this.#allStart.push(sum);
      sum += fields[edges];
    });
    this.#allStart.push(sum);
    if (left > 0)
      this.#warnings.add('half-node', 'The list of nodes ends within a node; that one was left out.');
    if (expected !== this.#type.length)
      this.#warnings.add('wrong-count', `The head tells ${expected} nodes; ${this.#type.length} are there.`);
  }

  #edges(): void {
    const { meta, edge_count: expected = 0 } = this.#meta();
    const [types] = meta.edge_types;
    const { length } = meta.edge_fields;
    const field = (name: string): number => meta.edge_fields.indexOf(name);
    const [type, name, to] = ['type', 'name_or_index', 'to_node'].map(field);
    const nodeFields = meta.node_fields.length;
    const weak = this.#options.weakKeep ? -1 : types.indexOf('weak');
    const shortcut = types.indexOf('shortcut');
    const count = this.#type.length;
    const hint = Math.min(expected, Math.floor(this.#source.length / (length * 2)));
    this.#edgeTo = new Growing(Uint32Array, hint);
    this.#edgeType = new Growing(Uint8Array, hint);
    this.#edgeName = new Growing(Uint32Array, hint);
    this.#edgeStart = new Uint32Array(count + 1);
    const starts = this.#allStart.items;
    let node = 0;
    let seen = 0;
    let dangling = 0;
    this.#scan.numbers(length, (fields) => {
      while (node < count && seen >= starts[node + 1]) this.#edgeStart[++node] = this.#edgeTo.length;
      seen++;
      const target = fields[to] / nodeFields;
      if (node >= count || !(target < count) || target !== Math.floor(target)) {
        dangling++;
        return;
      }
      if (fields[type] === weak) {
        this.#weakFrom.push(node);
        this.#weakTo.push(target);
        return;
      }
      if (fields[type] === shortcut && node !== 0) return;
      this.#edgeTo.push(target);
      this.#edgeType.push(fields[type]);
      this.#edgeName.push(fields[name]);
    });
    while (node < count) this.#edgeStart[++node] = this.#edgeTo.length;
    this.#warnings.add('dangling', 'References lead to no node; they were left out.', dangling);
    if (expected !== seen)
      this.#warnings.add('wrong-count', `The head tells ${expected} references; ${seen} are there.`);
  }

  finish(): ReadSnapshot {
    const { meta } = this.#meta();
    const count = this.#type.length;
    if (count === 0)
      throw new EvidenceError(
        'no-objects',
        'Expected a heap snapshot with nodes, but it has none. Take it again.',
        0
      );
    const textPosition = this.#texts.take();
    const { classes, classOf } = this.#classes(meta.node_types[0], textPosition);
    const { rootKinds, rootRecords } = this.#rootKinds(meta.node_types[0], textPosition);
    const names = this.#name.take();
    const shallow = this.#shallow.take();
    const duplicates = this.#duplicates(meta.node_types[0], names, shallow, textPosition);
    const spilled = <C extends Float64Array | Uint32Array | Uint8Array>(name: string, column: C): C => {
      if (!this.#options.spill) return column;
      this.#options.spill(name, column);
      return column.slice(0, 0) as C;
    };
    const dump: HeapDump = {
      format: 'v8-heap-snapshot',
      version: '',
      capturedAtMs: 0,
      count,
      classes,
      classOf,
      shallow,
      kind: this.#type.take().map((type) => (meta.node_types[0][type] === 'array' ? 1 : 0)),
      ids: spilled('ids', this.#id.take()),
      position: new Float64Array(),
      edgeStart: this.#edgeStart,
      edgeTo: this.#edgeTo.take(),
      weakFrom: this.#weakFrom.take(),
      weakTo: this.#weakTo.take(),
      recordedBytes: shallow.reduce((sum, bytes) => sum + bytes, 0),
      roots: Uint32Array.of(0),
      rootKind: Uint8Array.of(0),
      rootKinds,
      rootRecords,
      threads: [],
      layout: null,
      kinds: { nodes: meta.node_types[0], edges: meta.edge_types[0] },
      edgeType: spilled('edgeType', this.#edgeType.take()),
      edgeName: spilled('edgeName', this.#edgeName.take()),
      nodeName: spilled('nodeName', names),
      ...duplicates
    };
    return { dump, textPosition, warnings: this.#warnings.list() };
  }

  /** Objects are of the class of their constructor, which is their name; the rest go by their kind. */
  #classes(
    types: readonly string[],
    textPosition: Float64Array
  ): { classes: HeapClass[]; classOf: Uint32Array } {
    const { items: type } = this.#type;
    const { items: name } = this.#name;
    const count = this.#type.length;
    const named = new Set(['object', 'native'].map((one) => types.indexOf(one)));
    const byName = new Map<number, number>();
    const byType = new Map<number, number>();
    const keys: { text: number; type: number }[] = [];
    const classOf = new Uint32Array(count);
    for (let i = 0; i < count; i++) {
      const isNamed = named.has(type[i]);
      const key = isNamed ? name[i] * 32 + type[i] : type[i];
      const known = (isNamed ? byName : byType).get(key);
      if (known !== undefined) {
        classOf[i] = known;
        continue;
      }
      (isNamed ? byName : byType).set(key, keys.length);
      classOf[i] = keys.length;
      keys.push({ text: isNamed ? name[i] : -1, type: type[i] });
    }
    const classes = keys.map(({ text, type: kind }): HeapClass => {
      const word = types[kind] ?? 'unknown';
      const full = text < 0 ? `(${word})` : snapshotText(this.#source, textPosition, text, MAX_NAME);
      return { name: full, package: word, own: word === 'object' && !BUILT_IN.test(full) };
    });
    return { classes, classOf };
  }

  /** What the root's own kinds of roots are called, and how much each holds. */
  #rootKinds(
    types: readonly string[],
    textPosition: Float64Array
  ): { rootKinds: RootKind[]; rootRecords: number[] } {
    const synthetic = types.indexOf('synthetic');
    const rootKinds: RootKind[] = [{ kind: 'root', about: 'held by the machine' }];
    const rootRecords = [1];
    const seen = new Set<number>([0]);
    const open = [0];
    while (open.length > 0) {
      const node = open.pop()!;
      for (let i = this.#edgeStart[node]; i < this.#edgeStart[node + 1]; i++) {
        const to = this.#edgeTo.items[i];
        if (this.#type.items[to] !== synthetic || seen.has(to)) continue;
        seen.add(to);
        open.push(to);
        const kind = snapshotText(this.#source, textPosition, this.#name.items[to], MAX_NAME);
        rootKinds.push({ kind, about: 'as V8 calls it' });
        rootRecords.push(this.#edgeStart[to + 1] - this.#edgeStart[to]);
      }
    }
    return { rootKinds, rootRecords };
  }

  /** Equal texts share their number in the snapshot; V8 cuts long ones off there. */
  #duplicates(
    types: readonly string[],
    names: Uint32Array,
    shallow: Uint32Array,
    textPosition: Float64Array
  ): Pick<HeapDump, 'duplicates' | 'duplicateGroups' | 'duplicateBytes'> {
    const string = types.indexOf('string');
    const groups = new Map<number, { sample: number; count: number; bytes: number; least: number }>();
    for (let i = 0; i < names.length; i++) {
      if (this.#type.items[i] !== string || shallow[i] === 0) continue;
      const group = groups.get(names[i]);
      if (!group) groups.set(names[i], { sample: i, count: 1, bytes: shallow[i], least: shallow[i] });
      else {
        group.count++;
        group.bytes += shallow[i];
      }
    }
    let duplicateGroups = 0;
    let duplicateBytes = 0;
    const repeated = [...groups].filter(([, { count }]) => count > 1);
    for (const [, { bytes, least }] of repeated) {
      duplicateGroups++;
      duplicateBytes += bytes - least;
    }
    repeated.sort((a, b) => b[1].bytes - b[1].least - (a[1].bytes - a[1].least));
    const duplicates = repeated.slice(0, 200).map(([name, { sample, count, bytes, least }]) => ({
      sample,
      value: snapshotText(this.#source, textPosition, name, MAX_NAME),
      count,
      wastedBytes: bytes - least
    }));
    return { duplicates, duplicateGroups, duplicateBytes };
  }
}

function notSnapshot(why: string): EvidenceError {
  return new EvidenceError(
    'not-snapshot',
    `Expected a V8 heap snapshot with snapshot.meta, nodes, edges and strings, but ${why}.`,
    0
  );
}

function readMeta(value: unknown): SnapshotHead {
  const head = value as SnapshotHead;
  const {
    node_fields: nodes,
    edge_fields: edges,
    node_types: nodeTypes,
    edge_types: edgeTypes
  } = head?.meta ?? {};
  const named = (fields: unknown, wanted: string[]): boolean =>
    Array.isArray(fields) && wanted.every((name) => fields.includes(name));
  if (
    !named(nodes, ['type', 'name', 'id', 'self_size', 'edge_count']) ||
    !named(edges, ['type', 'name_or_index', 'to_node']) ||
    !Array.isArray(nodeTypes?.[0]) ||
    !Array.isArray(edgeTypes?.[0])
  )
    throw notSnapshot('its head does not tell the fields of nodes and edges');
  return head;
}

/** The text of a number, cut at so many characters. */
export function snapshotText(
  source: ByteSource,
  textPosition: Float64Array,
  text: number,
  most: number
): string {
  if (!(text < textPosition.length)) return '';
  const bytes = new Uint8Array(most * 6 + 2);
  const got = source.read(textPosition[text], bytes);
  let end = 1;
  for (let escaped = false; end < got; end++) {
    if (bytes[end] === 34 && !escaped) break;
    escaped = bytes[end] === 92 && !escaped;
  }
  const whole = new TextDecoder().decode(bytes.subarray(0, end));
  for (let cut = whole.length; cut > 0 && cut > whole.length - 8; cut--) {
    try {
      const read = JSON.parse(`${whole.slice(0, cut)}"`) as string;
      return read.length > most ? `${read.slice(0, most)}…` : read;
    } catch {
      // Cut within an escape: a character less.
    }
  }
  return '';
}
