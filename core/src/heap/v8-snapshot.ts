import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { ByteCursor, EndOfBytes, type ByteSource } from './byte-source';
import type { HeapClass, RootKind } from './graph';
import type { ColumnStore } from './column-store';
import { GrowableArray } from './growable-array';
import type { HeapDump } from './heap-index';
import type { ReadOptions } from './read-options';
import { JsonScan } from './json-scan';
import { MOST_STRINGS } from './duplicate-strings';
import { greatest } from './top';

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

/**
 * Reads a V8 heap snapshot as a stream (source of the form: the snapshot's own `meta`, and V8's `heap-snapshot-generator`, from
 * memory). Weak references do not keep alive; shortcuts are followed from the root only.
 * @param store takes the columns that working out who keeps what does not need.
 * @throws EvidenceError `not-snapshot`, `not-json`, `truncated`.
 */
export function readV8Snapshot(
  source: ByteSource,
  store: ColumnStore,
  options: ReadOptions = {}
): { dump: HeapDump; warnings: Warning[] } {
  const cursor = new ByteCursor(source);
  const reader = new SnapshotReader(source, new JsonScan(cursor), store, options);
  try {
    reader.read();
  } catch (cause) {
    if (!(cause instanceof EndOfBytes)) throw cause;
    throw new EvidenceError(
      'truncated',
      `The snapshot ends at byte ${cause.at}, before its strings do: it is cut off, or still being written. Without them no class has a name; take it again.`,
      cause.at
    );
  }
  return reader.finish();
}

class SnapshotReader {
  readonly #source: ByteSource;
  readonly #scan: JsonScan;
  readonly #store: ColumnStore;
  readonly #options: ReadOptions;
  readonly #warnings = new Warnings();
  #head: SnapshotHead | null = null;
  #type = new GrowableArray(Uint8Array, 16);
  #name = new GrowableArray(Uint32Array, 16);
  #shallow = new GrowableArray(Uint32Array, 16);
  /** Where the references of each node begin: among all of the snapshot, then among those that are kept. */
  #edgeStart = new GrowableArray(Uint32Array, 16);
  #edgeTo = new GrowableArray(Uint32Array, 16);
  readonly #weakFrom = new GrowableArray(Uint32Array);
  readonly #weakTo = new GrowableArray(Uint32Array);
  /** Where each text begins. */
  #texts: Float64Array = new Float64Array();

  constructor(source: ByteSource, scan: JsonScan, store: ColumnStore, options: ReadOptions) {
    this.#source = source;
    this.#scan = scan;
    this.#store = store;
    this.#options = options;
  }

  read(): void {
    for (const key of this.#scan.keys()) {
      if (key === 'snapshot') this.#head = readMeta(this.#scan.value());
      else if (key === 'nodes') this.#nodes();
      else if (key === 'edges') this.#edges();
      else if (key === 'strings') this.#texts = this.#scan.strings();
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
    this.#type = new GrowableArray(Uint8Array, hint);
    this.#name = new GrowableArray(Uint32Array, hint);
    this.#shallow = new GrowableArray(Uint32Array, hint);
    this.#edgeStart = new GrowableArray(Uint32Array, hint + 1);
    let ids = new Float64Array();
    let sum = 0;
    const left = this.#scan.numbers(length, (numbers, groups) => {
      const types = this.#type.reserve(groups);
      const names = this.#name.reserve(groups);
      const sizes = this.#shallow.reserve(groups);
      const starts = this.#edgeStart.reserve(groups + 1);
      if (ids.length < groups) ids = new Float64Array(groups);
      let node = this.#type.length;
      let begun = sum;
      for (let i = 0, from = 0; i < groups; i++, from += length, node++) {
        types[node] = numbers[from + type];
        names[node] = numbers[from + name];
        ids[i] = numbers[from + id] >>> 0;
        sizes[node] = numbers[from + size];
        starts[node] = begun;
        begun += numbers[from + edges];
      }
      sum = begun;
      this.#type.length = this.#name.length = this.#shallow.length = this.#edgeStart.length = node;
      this.#store.append('ids', ids.subarray(0, groups));
    });
    this.#edgeStart.push(sum);
    if (left > 0)
      this.#warnings.add('half-node', 'The list of nodes ends within a node; that one was left out.');
    if (expected !== this.#type.length)
      this.#warnings.add(
        'wrong-count',
        `The header declares ${expected} nodes; the file has ${this.#type.length}.`
      );
  }

  #edges(): void {
    const { meta, edge_count: expected = 0 } = this.#meta();
    const [types] = meta.edge_types;
    const { length } = meta.edge_fields;
    const field = (name: string): number => meta.edge_fields.indexOf(name);
    const [type, name, to] = ['type', 'name_or_index', 'to_node'].map(field);
    const nodeFields = meta.node_fields.length;
    const perNode = 1 / nodeFields;
    const weak = this.#options.weakKeep ? -1 : types.indexOf('weak');
    const shortcut = types.indexOf('shortcut');
    const count = this.#type.length;
    const hint = Math.min(expected, Math.floor(this.#source.length / (length * 2)));
    this.#edgeTo = new GrowableArray(Uint32Array, hint);
    let keptTypes = new Uint8Array();
    let keptNames = new Uint32Array();
    const starts = this.#edgeStart.items;
    const progress = { node: 0, seen: 0, dangling: 0 };
    this.#scan.numbers(length, (numbers, groups) => {
      // Variables of its own: those around a function are several times slower, and this is gone through a hundred million times.
      let { node, seen, dangling } = progress;
      let until = node < count ? starts[node + 1] : Infinity;
      const targets = this.#edgeTo.reserve(groups);
      if (keptTypes.length < groups) {
        keptTypes = new Uint8Array(groups);
        keptNames = new Uint32Array(groups);
      }
      const before = this.#edgeTo.length;
      let kept = before;
      for (let i = 0, from = 0; i < groups; i++, from += length) {
        // A start among all is read for the last time where it is written as a start among those kept.
        while (seen >= until) {
          starts[++node] = kept;
          until = node < count ? starts[node + 1] : Infinity;
        }
        seen++;
        // Times the inverse, since a division takes several times as long; rounded, and right where it comes out even.
        const place = numbers[from + to];
        const target = (place * perNode + 0.5) | 0;
        if (node >= count || target >= count || target * nodeFields !== place) {
          dangling++;
          continue;
        }
        const kind = numbers[from + type];
        if (kind === weak) {
          this.#weakFrom.push(node);
          this.#weakTo.push(target);
          continue;
        }
        if (kind === shortcut && node !== 0) continue;
        keptTypes[kept - before] = kind;
        keptNames[kept - before] = numbers[from + name];
        targets[kept++] = target;
      }
      this.#edgeTo.length = kept;
      Object.assign(progress, { node, seen, dangling });
      this.#store.append('edgeType', keptTypes.subarray(0, kept - before));
      this.#store.append('edgeName', keptNames.subarray(0, kept - before));
    });
    for (let node = progress.node; node < count;) starts[++node] = this.#edgeTo.length;
    const { seen, dangling } = progress;
    this.#warnings.add('dangling', 'References lead to no node; they were left out.', dangling);
    if (expected !== seen)
      this.#warnings.add('wrong-count', `The header declares ${expected} references; the file has ${seen}.`);
  }

  finish(): { dump: HeapDump; warnings: Warning[] } {
    const { meta } = this.#meta();
    const [types] = meta.node_types;
    const count = this.#type.length;
    if (count === 0)
      throw new EvidenceError(
        'no-objects',
        'Expected a heap snapshot with nodes, but it has none. Take it again.',
        0
      );
    // Without a list of references no node has one.
    if (this.#edgeTo.length === 0) this.#edgeStart.items.fill(0);
    const textPosition = this.#texts;
    this.#store.put('textPosition', textPosition);
    const { classes, classOf } = this.#classes(types, textPosition);
    const { rootKinds, rootRecords } = this.#rootKinds(types, textPosition);
    const duplicates = this.#duplicates(types, textPosition);
    this.#store.put('nodeName', this.#name.take());
    const shallow = this.#shallow.take();
    const kind = this.#type.take();
    let recordedBytes = 0;
    const array = types.indexOf('array');
    for (let i = 0; i < count; i++) {
      kind[i] = kind[i] === array ? 1 : 0;
      recordedBytes += shallow[i];
    }
    this.#store.put('classOf', classOf);
    this.#store.put('shallow', shallow);
    this.#store.put('kind', kind);
    this.#store.put('weakFrom', this.#weakFrom.take());
    const weakTo = this.#weakTo.take();
    this.#store.put('weakTo', weakTo);
    const dump: HeapDump = {
      format: 'v8-heap-snapshot',
      version: '',
      capturedAtMs: 0,
      count,
      classes,
      edgeStart: this.#edgeStart.take(),
      edgeTo: this.#edgeTo.take(),
      weakReferences: weakTo.length,
      recordedBytes,
      roots: Uint32Array.of(0),
      rootKind: Uint8Array.of(0),
      rootKinds,
      rootRecords,
      threads: [],
      layout: null,
      kinds: { nodes: types, edges: meta.edge_types[0] },
      ...duplicates
    };
    return { dump, warnings: this.#warnings.list() };
  }

  /** Objects are of the class of their constructor, which is their name; the rest go by their kind. */
  #classes(
    types: readonly string[],
    textPosition: Float64Array
  ): { classes: HeapClass[]; classOf: Uint32Array } {
    const { items: type } = this.#type;
    const { items: name } = this.#name;
    const count = this.#type.length;
    const named = ['object', 'native'].map((one) => types.indexOf(one));
    // By the text's number for each of the kinds that are named, and by the kind for the rest: the number of the class, and one.
    const byName = named.map(() => new Uint32Array(textPosition.length));
    const byType = new Uint32Array(256);
    const keys: { text: number; type: number }[] = [];
    const classOf = new Uint32Array(count);
    for (let i = 0; i < count; i++) {
      const kind = type[i];
      const text = kind === named[0] ? 0 : kind === named[1] ? 1 : -1;
      const known = text < 0 || name[i] >= textPosition.length ? byType : byName[text];
      const at = known === byType ? kind : name[i];
      if (known[at] === 0) {
        keys.push({ text: known === byType ? -1 : at, type: kind });
        known[at] = keys.length;
      }
      classOf[i] = known[at] - 1;
    }
    const classes = keys.map(({ text, type: kind }): HeapClass => {
      const word = types[kind] ?? 'unknown';
      const full = text < 0 ? `(${word})` : this.#text(textPosition, text);
      return { name: full, package: word, own: word === 'object' && !BUILT_IN.test(full) };
    });
    return { classes, classOf };
  }

  /** What the root's own kinds of roots are called, and how much each holds. */
  #rootKinds(
    types: readonly string[],
    textPosition: Float64Array
  ): { rootKinds: RootKind[]; rootRecords: number[] } {
    const starts = this.#edgeStart.items;
    const synthetic = types.indexOf('synthetic');
    const rootKinds: RootKind[] = [{ kind: 'root', about: 'held by the machine' }];
    const rootRecords = [1];
    const seen = new Set<number>([0]);
    const open = [0];
    while (open.length > 0) {
      const node = open.pop()!;
      for (let i = starts[node]; i < starts[node + 1]; i++) {
        const to = this.#edgeTo.items[i];
        if (this.#type.items[to] !== synthetic || seen.has(to)) continue;
        seen.add(to);
        open.push(to);
        const kind = this.#text(textPosition, this.#name.items[to]);
        rootKinds.push({ kind, about: 'as V8 calls it' });
        rootRecords.push(starts[to + 1] - starts[to]);
      }
    }
    return { rootKinds, rootRecords };
  }

  /** Equal texts share their number in the snapshot; V8 cuts long ones off there. */
  #text(textPosition: Float64Array, text: number): string {
    return snapshotText(this.#source, textPosition.subarray(text, text + 2), MAX_NAME);
  }

  #duplicates(
    types: readonly string[],
    textPosition: Float64Array
  ): Pick<HeapDump, 'duplicates' | 'duplicateGroups' | 'duplicateBytes'> {
    const string = types.indexOf('string');
    const { items: type } = this.#type;
    const { items: name } = this.#name;
    const { items: shallow } = this.#shallow;
    // By the text's number: there are millions of texts.
    const counts = new Uint32Array(textPosition.length);
    const bytes = new Float64Array(textPosition.length);
    const sample = new Uint32Array(textPosition.length);
    for (let i = 0; i < this.#type.length; i++) {
      if (type[i] !== string || shallow[i] === 0 || !(name[i] < counts.length)) continue;
      if (counts[name[i]]++ === 0) sample[name[i]] = i;
      bytes[name[i]] += shallow[i];
    }
    const wasted = (text: number): number => bytes[text] - shallow[sample[text]];
    const repeated: number[] = [];
    let duplicateBytes = 0;
    for (let text = 0; text < counts.length; text++) {
      if (counts[text] < 2) continue;
      repeated.push(text);
      duplicateBytes += wasted(text);
    }
    const duplicates = greatest(repeated, wasted, 0, this.#options.mostStrings ?? MOST_STRINGS).map(
      (text) => ({
        sample: sample[text],
        count: counts[text],
        wastedBytes: wasted(text)
      })
    );
    return { duplicates, duplicateGroups: repeated.length, duplicateBytes };
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

/**
 * A text of the snapshot, cut at so many characters.
 * @param positions where it begins and, but for the last one, where the next does; empty for a number no text has.
 */
export function snapshotText(source: ByteSource, positions: Float64Array, most: number): string {
  if (positions.length === 0) return '';
  // One stands behind the other: no text is longer than up to where the next begins.
  const [from, next = source.length] = positions;
  const bytes = new Uint8Array(Math.min(most * 6 + 2, next - from));
  const got = source.read(from, bytes);
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
