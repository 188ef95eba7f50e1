import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import type { ColumnStore } from './column-store';
import { ByteCursor, idAt, MAX_ENSURE, type ByteSource } from './byte-source';
import { duplicateTexts, MOST_TEXTS, TextHashes } from './duplicate-texts';
import type { HeapClass } from './graph';
import type { HeapDump, HeapThread, HprofLayout } from './heap-index';
import { PiecewiseColumn } from './piecewise-column';
import {
  HPROF_ROOTS,
  OBJECT_TYPE,
  readHead,
  TYPE_NAMES,
  typeSize,
  walkHprof,
  type HprofClassDump,
  type HprofVisitor
} from './hprof-walk';
import { idMap, type IdMap } from './id-map';
import { isOwnJava, javaClassName, javaPackage } from './java-names';
import { align8, arraySize, layClass, type FieldLayout } from './java-layout';
import { Growing } from './growing';
import { MissingReferences } from './missing-references';

export interface ReadOptions {
  /** References from weak, soft and phantom reference objects keep alive too. */
  weakKeep?: boolean;
  /** Most repeated texts listed. */
  mostTexts?: number;
  /** Called where much memory has just become free. */
  reclaim?: () => void;
  /** Told the part that is done, 0 to 1; may throw to give up. */
  onprogress?: (part: number) => void;
}

/** A class with what its instances look like. */
interface ClassFacts {
  dump: HprofClassDump;
  name: string;
  /** Number among the classes. */
  index: number;
  /** Offsets of references in the data of an instance, its own class's fields first. */
  references: Int32Array;
  /** Offset of the referent of a weak, soft or phantom reference; −1 for other classes. */
  referent: number;
  shallow: number;
  /** Offset of the field `value` of a text; −1 for other classes. */
  value: number;
}

/** What the first walk finds: who there is. */
interface Inventory {
  /** Objects; their identities are stored. */
  count: number;
  classDumps: Map<number, HprofClassDump>;
  classNames: Map<number, string>;
  /** Length of the reference lists altogether, at most. */
  references: number;
  roots: { tag: number; id: number; first: number; second: number }[];
  threads: Map<number, { thread: number; frames: string[] }>;
  texts: number;
}

const WEAK_CLASSES = new Set([
  'java.lang.ref.WeakReference',
  'java.lang.ref.SoftReference',
  'java.lang.ref.PhantomReference'
]);

/**
 * Reads a heap dump of a Java machine in two walks: who there is, then who refers to whom. Shallow sizes are as a 64-bit machine with
 * compressed references lays objects out.
 * @param store takes the columns that working out who keeps what does not need.
 * @throws EvidenceError `not-hprof`, `no-objects`.
 */
export function readHprof(
  source: ByteSource,
  store: ColumnStore,
  options: ReadOptions = {}
): { dump: HeapDump; warnings: Warning[] } {
  const warnings = new Warnings();
  const cursor = new ByteCursor(source);
  const head = readHead(cursor);
  const begin = cursor.position;
  const half = (from: number) => (position: number) =>
    options.onprogress?.(from + (0.5 * position) / source.length);
  const found = takeInventory(cursor, head.idSize, store, warnings, half(0));
  if (found.count === 0)
    throw new EvidenceError(
      'no-objects',
      'Expected a heap dump with objects, but it ends before the first one. Take the dump again.',
      cursor.position
    );
  const map = idMap(store.get('ids'));
  options.reclaim?.();
  if (map.duplicates > 0)
    warnings.add(
      'same-id-twice',
      'Objects share an identity with an earlier one; references lead to the first.',
      map.duplicates
    );
  const classes = new ClassTable(found, head.idSize, warnings);
  const reader = new ReferenceReader(found, map, classes, store, head.idSize, options);
  const again = new ByteCursor(source, begin);
  // What was cut off or damaged was said by the first walk.
  walkHprof(again, head.idSize, { ...reader.visitor(), progress: half(0.5) }, new Warnings());
  const dump = reader.finish(warnings);
  const { roots, rootKind, rootKinds, rootRecords } = rootsOf(found, map, warnings);
  return {
    dump: {
      ...dump,
      format: 'hprof',
      version: head.version,
      capturedAtMs: head.capturedAtMs,
      classes: classes.list,
      roots,
      rootKind,
      rootKinds,
      rootRecords,
      threads: [...found.threads.values()].map(({ thread, frames }): HeapThread => ({
        object: map.indexOf(thread),
        frames
      })),
      layout: layoutOf(found, head.idSize)
    },
    warnings: warnings.list()
  };
}

function takeInventory(
  cursor: ByteCursor,
  idSize: number,
  store: ColumnStore,
  warnings: Warnings,
  progress: (position: number) => void
): Inventory {
  const ids = new PiecewiseColumn(store, 'ids', Float64Array);
  const texts = new Map<number, string>();
  const names = new Map<number, number>();
  const serials = new Map<number, number>();
  const frames = new Map<number, { method: number; file: number; line: number; classSerial: number }>();
  const traces = new Map<number, { thread: number; frames: number[] }>();
  const found: Inventory = {
    count: 0,
    classDumps: new Map(),
    classNames: new Map(),
    references: 0,
    roots: [],
    threads: new Map(),
    texts: 0
  };
  const perClass = new Map<number, number>();
  const decoder = new TextDecoder();
  walkHprof(
    cursor,
    idSize,
    {
      text(id, length, at) {
        if (length > MAX_ENSURE) return;
        at.ensure(length);
        texts.set(id, decoder.decode(at.bytes.subarray(at.at, at.at + length)));
        at.at += length;
      },
      loadClass(classId, nameId, serial) {
        names.set(classId, nameId);
        serials.set(serial, classId);
      },
      frame: (id, method, file, line, classSerial) =>
        void frames.set(id, { method, file, line, classSerial }),
      trace: (serial, thread, list) => void traces.set(serial, { thread, frames: list }),
      root: (tag, id, first, second) => void found.roots.push({ tag, id, first, second }),
      classDump(dump) {
        if (!found.classDumps.has(dump.id)) {
          found.classDumps.set(dump.id, dump);
          found.references += 3 + dump.others.length + dump.statics.length + dump.constants.length;
        }
        ids.push(dump.id);
      },
      instance(id, classId) {
        ids.push(id);
        perClass.set(classId, (perClass.get(classId) ?? 0) + 1);
      },
      objects(id, _, length, at) {
        ids.push(id);
        // A length may claim more than the dump has.
        found.references += Math.min(length, Math.floor(at.left / idSize));
      },
      primitives(id, type) {
        ids.push(id);
        if (type === 5 || type === 8) found.texts++;
      },
      progress
    },
    warnings
  );
  found.count = ids.finish();
  for (const [classId, nameId] of names)
    found.classNames.set(classId, javaClassName(texts.get(nameId) ?? `class ${classId.toString(16)}`));
  for (const dump of found.classDumps.values()) {
    for (const field of [...dump.fields, ...dump.statics]) fieldNames.set(field, texts.get(field.name) ?? '');
  }
  for (const [classId, count] of perClass) {
    let fields = 0;
    const seen = new Set<number>();
    for (let at = classId; at !== 0 && !seen.has(at); at = found.classDumps.get(at)?.superId ?? 0) {
      seen.add(at);
      fields += found.classDumps.get(at)?.fields.filter(({ type }) => type === OBJECT_TYPE).length ?? 0;
    }
    found.references += count * fields;
  }
  const frameText = (id: number): string => {
    const frame = frames.get(id);
    if (!frame) return '(unknown frame)';
    const owner = found.classNames.get(serials.get(frame.classSerial) ?? 0) ?? '';
    const file = texts.get(frame.file) ?? '';
    return `${owner}.${texts.get(frame.method) ?? '?'}${file ? ` (${file}${frame.line > 0 ? `:${frame.line}` : ''})` : ''}`;
  };
  for (const { tag, id, first, second } of found.roots) {
    if (tag !== 0x08) continue;
    found.threads.set(first, { thread: id, frames: (traces.get(second)?.frames ?? []).map(frameText) });
  }
  return found;
}

/** What is needed to read a single record again. */
function layoutOf({ classDumps, classNames }: Inventory, idSize: number): HprofLayout {
  return {
    idSize,
    classes: [...classDumps.values()].map((dump) => ({
      id: dump.id,
      name: classNames.get(dump.id) ?? '',
      superId: dump.superId,
      fields: dump.fields.map((field) => ({ name: fieldName(field), type: field.type })),
      statics: dump.statics.map((field) => ({ name: fieldName(field), type: field.type, value: field.value }))
    }))
  };
}

/** Names of fields by their record: kept beside it, because records are shared by everything that reads instances. */
const fieldNames = new WeakMap<object, string>();
/** @param field of a class dump that was read here. */
const fieldName = (field: object): string => fieldNames.get(field) ?? '';

/** Classes by number, each with what its instances look like. */
class ClassTable {
  readonly list: HeapClass[] = [];
  readonly #byId = new Map<number, ClassFacts>();
  readonly #byName = new Map<string, number>();
  readonly #layouts = new Map<number, FieldLayout>();
  readonly #found: Inventory;
  readonly #idSize: number;
  readonly ofClasses: number;
  readonly classShallow: number;

  constructor(found: Inventory, idSize: number, warnings: Warnings) {
    this.#found = found;
    this.#idSize = idSize;
    this.ofClasses = this.named('java.lang.Class');
    for (const id of found.classDumps.keys()) this.#add(id, warnings);
    const own = [...this.#byId.values()].find(({ name }) => name === 'java.lang.Class');
    this.classShallow = own?.shallow ?? 0;
  }

  of(classId: number): ClassFacts | undefined {
    return this.#byId.get(classId);
  }

  /** The number of a class by its name. */
  named(name: string): number {
    const known = this.#byName.get(name);
    if (known !== undefined) return known;
    this.#byName.set(name, this.list.length);
    this.list.push({ name, package: javaPackage(name), own: isOwnJava(name) });
    return this.list.length - 1;
  }

  /** From the class up to its first, as far as they are in the dump; a class that is its own ancestor ends it. */
  #chain(id: number): HprofClassDump[] {
    const chain: HprofClassDump[] = [];
    const seen = new Set<number>();
    for (
      let dump = this.#found.classDumps.get(id);
      dump && !seen.has(dump.id);
      dump = this.#found.classDumps.get(dump.superId)
    ) {
      seen.add(dump.id);
      chain.push(dump);
    }
    return chain;
  }

  #add(id: number, warnings: Warnings): void {
    const chain = this.#chain(id);
    const [dump] = chain;
    const name = this.#found.classNames.get(id) ?? `class ${id.toString(16)}`;
    if (chain.at(-1)!.superId !== 0)
      warnings.add(
        'no-superclass',
        'A superclass is not in the dump: fields of its instances are not known.'
      );
    const references: number[] = [];
    let offset = 0;
    let referent = -1;
    let value = -1;
    const isWeak = chain.some((one) => WEAK_CLASSES.has(this.#found.classNames.get(one.id) ?? ''));
    for (const one of chain) {
      for (const field of one.fields) {
        if (field.type === OBJECT_TYPE) {
          references.push(offset);
          if (isWeak && fieldName(field) === 'referent') referent = offset;
          if (name === 'java.lang.String' && fieldName(field) === 'value') value = offset;
        }
        offset += typeSize(field.type, this.#idSize)!;
      }
    }
    const { end } = this.#layoutOf(chain);
    this.#byId.set(id, {
      dump,
      name,
      index: this.named(name),
      references: Int32Array.from(references),
      referent,
      shallow: align8(end),
      value
    });
  }

  /** From the first class down, so that deep chains need no recursion. */
  #layoutOf(chain: readonly HprofClassDump[]): FieldLayout {
    let layout: FieldLayout | null = null;
    for (const dump of chain.toReversed()) {
      let known = this.#layouts.get(dump.id);
      if (!known)
        this.#layouts.set(
          dump.id,
          (known = layClass(this.#found.classNames.get(dump.id) ?? '', layout, dump.fields))
        );
      layout = known;
    }
    return layout!;
  }
}

/** The second walk: writes down who refers to whom. */
class ReferenceReader {
  readonly #map: IdMap;
  readonly #classes: ClassTable;
  readonly #idSize: number;
  readonly #weakKeep: boolean;
  readonly #mostTexts: number;
  readonly #count: number;
  readonly #store: ColumnStore;
  readonly #classOf: PiecewiseColumn<'classOf'>;
  readonly #shallow: Uint32Array;
  readonly #kind: PiecewiseColumn<'kind'>;
  readonly #position: PiecewiseColumn<'position'>;
  readonly #edgeStart: Uint32Array;
  readonly #edgeTo: Uint32Array;
  readonly #weakFrom = new Growing(Uint32Array);
  readonly #weakTo = new Growing(Uint32Array);
  readonly #hashes: TextHashes;
  readonly #missing = new MissingReferences();
  /** Texts: object, and the array that holds its characters. */
  readonly #texts = new Growing(Uint32Array);
  readonly #textArrays = new Growing(Uint32Array);
  #object = 0;
  #edges = 0;
  #recorded = 0;
  #unknownClass = 0;

  constructor(
    found: Inventory,
    map: IdMap,
    classes: ClassTable,
    store: ColumnStore,
    idSize: number,
    { weakKeep = false, mostTexts = MOST_TEXTS }: ReadOptions
  ) {
    this.#map = map;
    this.#classes = classes;
    this.#idSize = idSize;
    this.#weakKeep = weakKeep;
    this.#mostTexts = mostTexts;
    this.#count = found.count;
    this.#store = store;
    this.#classOf = new PiecewiseColumn(store, 'classOf', Uint32Array);
    this.#shallow = new Uint32Array(this.#count);
    this.#kind = new PiecewiseColumn(store, 'kind', Uint8Array);
    this.#position = new PiecewiseColumn(store, 'position', Float64Array);
    this.#edgeStart = new Uint32Array(this.#count + 1);
    this.#edgeTo = new Uint32Array(found.references);
    this.#hashes = new TextHashes(found.texts);
  }

  visitor(): HprofVisitor {
    return {
      classDump: (dump, at) => {
        if (!this.#begin(at, this.#classes.ofClasses, 3, this.#classSize(dump))) return;
        this.#refer(dump.superId);
        this.#refer(dump.loader);
        for (const other of dump.others) this.#refer(other);
        for (const { type, value } of [...dump.statics, ...dump.constants])
          if (type === OBJECT_TYPE) this.#refer(value);
        this.#end();
      },
      instance: (_, classId, bytes, cursor, at) => {
        const facts = this.#classes.of(classId);
        if (!facts) this.#unknownClass++;
        const index = facts?.index ?? this.#classes.named('(class not in the dump)');
        if (!this.#begin(at, index, 0, facts?.shallow ?? align8(12 + bytes))) return;
        this.#recorded += bytes;
        if (facts && bytes <= MAX_ENSURE) {
          cursor.ensure(bytes);
          this.#fields(facts, cursor.bytes, cursor.at, bytes);
        }
        this.#end();
      },
      objects: (_, classId, length, cursor, at) => {
        const facts = this.#classes.of(classId);
        if (!facts) this.#unknownClass++;
        const index = facts?.index ?? this.#classes.named('java.lang.Object[]');
        if (!this.#begin(at, index, 1, arraySize(OBJECT_TYPE, length))) return;
        this.#recorded += length * this.#idSize;
        this.#elements(cursor, length);
        this.#end();
      },
      primitives: (_, type, length, cursor, at) => {
        if (!this.#begin(at, this.#classes.named(`${TYPE_NAMES[type]}[]`), 2, arraySize(type, length)))
          return;
        const bytes = length * typeSize(type, this.#idSize)!;
        this.#recorded += bytes;
        if (type === 5 || type === 8) this.#hashes.add(this.#object, cursor, bytes);
        this.#end();
      }
    };
  }

  /** False where the first walk met no more objects: the file has changed meanwhile. */
  #begin(at: number, classIndex: number, kind: number, shallow: number): boolean {
    if (this.#object >= this.#count) return false;
    this.#classOf.push(classIndex);
    this.#kind.push(kind);
    this.#shallow[this.#object] = Math.min(shallow, 0xffffffff);
    this.#position.push(at);
    return true;
  }

  #end(): void {
    this.#edgeStart[++this.#object] = this.#edges;
  }

  /** The mirror of a class is an object too: its own fields, and the class's statics. */
  #classSize(dump: HprofClassDump): number {
    let bytes = this.#classes.classShallow;
    // Names are known of the first walk's records.
    for (const field of this.#classes.of(dump.id)?.dump.statics ?? []) {
      // `<resolved_references>` and its like lie elsewhere in the machine; they are told as statics only.
      if (fieldName(field).startsWith('<')) continue;
      bytes += field.type === OBJECT_TYPE ? 4 : (typeSize(field.type, 4) ?? 0);
    }
    return align8(bytes);
  }

  #refer(id: number): void {
    if (id === 0) return;
    const to = this.#map.indexOf(id);
    if (to < 0) this.#missing.add(this.#object);
    else if (this.#edges < this.#edgeTo.length) this.#edgeTo[this.#edges++] = to;
  }

  #fields(facts: ClassFacts, bytes: Uint8Array, at: number, length: number): void {
    const { references, referent, value } = facts;
    for (let i = 0; i < references.length; i++) {
      const offset = references[i];
      if (offset + this.#idSize > length) break;
      const id = idAt(bytes, at + offset, this.#idSize);
      if (id === 0) continue;
      if (offset === referent && !this.#weakKeep) {
        const to = this.#map.indexOf(id);
        if (to < 0) continue;
        this.#weakFrom.push(this.#object);
        this.#weakTo.push(to);
        continue;
      }
      if (offset === value) {
        this.#texts.push(this.#object);
        // One that is not in the dump becomes a number no object has.
        this.#textArrays.push(this.#map.indexOf(id));
      }
      this.#refer(id);
    }
  }

  #elements(cursor: ByteCursor, length: number): void {
    const size = this.#idSize;
    for (let left = length; left > 0;) {
      const some = Math.min(left, Math.max(1, Math.floor(Math.min(cursor.some(), MAX_ENSURE) / size)));
      cursor.ensure(some * size);
      const { bytes } = cursor;
      let { at } = cursor;
      for (let i = 0; i < some; i++, at += size) {
        const id = idAt(bytes, at, size);
        if (id !== 0) this.#refer(id);
      }
      cursor.at = at;
      left -= some;
    }
  }

  finish(
    warnings: Warnings
  ): Pick<
    HeapDump,
    | 'count'
    | 'edgeStart'
    | 'edgeTo'
    | 'weakReferences'
    | 'recordedBytes'
    | 'duplicates'
    | 'duplicateGroups'
    | 'duplicateBytes'
  > {
    this.#missing.tell(warnings);
    warnings.add(
      'no-class',
      'Objects are of a class that is not in the dump: their fields are not known.',
      this.#unknownClass
    );
    // Where the dump broke off within an object, that one has no references.
    for (let i = this.#object + 1; i <= this.#count; i++) this.#edgeStart[i] = this.#edges;
    for (const column of [this.#classOf, this.#kind, this.#position]) column.finish(this.#count);
    const weakReferences = this.#weakTo.length;
    this.#store.put('shallow', this.#shallow);
    this.#store.put('weakFrom', this.#weakFrom.take());
    this.#store.put('weakTo', this.#weakTo.take());
    return {
      count: this.#count,
      edgeStart: this.#edgeStart,
      edgeTo: this.#edgeTo.subarray(0, this.#edges),
      weakReferences,
      recordedBytes: this.#recorded,
      ...duplicateTexts(
        this.#texts.take(),
        this.#textArrays.take(),
        this.#hashes,
        this.#shallow,
        this.#mostTexts
      )
    };
  }
}

function rootsOf(
  { roots }: Inventory,
  map: IdMap,
  warnings: Warnings
): Pick<HeapDump, 'roots' | 'rootKind' | 'rootKinds' | 'rootRecords'> {
  const tags = Object.keys(HPROF_ROOTS).map(Number);
  const records = tags.map(() => 0);
  const kindOf = new Map<number, number>();
  let dangling = 0;
  for (const { tag, id } of roots) {
    // Recorded without being held: it is no root.
    if (tag === 0x90) continue;
    const object = map.indexOf(id);
    const kind = tags.indexOf(tag);
    if (object < 0) {
      dangling++;
      continue;
    }
    records[kind]++;
    if (!kindOf.has(object)) kindOf.set(object, kind);
  }
  warnings.add('dangling-root', 'Roots name no object of the dump; they were left out.', dangling);
  return {
    roots: Uint32Array.from(kindOf.keys()),
    rootKind: Uint8Array.from(kindOf.values()),
    rootKinds: tags.map((tag) => ({ kind: HPROF_ROOTS[tag].kind, about: HPROF_ROOTS[tag].about })),
    rootRecords: records
  };
}
