import { Warnings } from '../formats/evidence-error';
import type { ColumnStore } from './column-store';
import { ByteCursor, idAt, MAX_ENSURE } from './byte-source';
import { duplicateStrings, MOST_STRINGS, StringHashes } from './duplicate-strings';
import type { HeapDump } from './heap-index';
import { PiecewiseColumn } from './piecewise-column';
import { OBJECT_TYPE, TYPE_NAMES, typeSize, type HprofClassDump, type HprofVisitor } from './hprof-walk';
import type { IdMap } from './id-map';
import { align8, arraySize } from './java-layout';
import { GrowableArray } from './growable-array';
import { MissingReferences } from './missing-references';
import type { ReadOptions } from './read-options';
import type { Inventory } from './hprof-inventory';
import { ClassTable, type ClassFacts } from './hprof-classes';

/** The second walk: writes down who refers to whom. */
export class ReferenceReader {
  readonly #map: IdMap;
  readonly #classes: ClassTable;
  readonly #idSize: number;
  readonly #weakKeep: boolean;
  readonly #mostStrings: number;
  readonly #count: number;
  readonly #fieldNames: Inventory['fieldNames'];
  readonly #store: ColumnStore;
  readonly #classOf: PiecewiseColumn<'classOf'>;
  readonly #shallow: Uint32Array;
  readonly #kind: PiecewiseColumn<'kind'>;
  readonly #position: PiecewiseColumn<'position'>;
  readonly #edgeStart: Uint32Array;
  readonly #edgeTo: Uint32Array;
  readonly #weakFrom = new GrowableArray(Uint32Array);
  readonly #weakTo = new GrowableArray(Uint32Array);
  readonly #hashes: StringHashes;
  readonly #missing = new MissingReferences();
  /** Texts: object, and the array that holds its characters. */
  readonly #texts = new GrowableArray(Uint32Array);
  readonly #textArrays = new GrowableArray(Uint32Array);
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
    { weakKeep = false, mostStrings = MOST_STRINGS }: ReadOptions
  ) {
    this.#map = map;
    this.#classes = classes;
    this.#idSize = idSize;
    this.#weakKeep = weakKeep;
    this.#mostStrings = mostStrings;
    this.#count = found.count;
    this.#fieldNames = found.fieldNames;
    this.#store = store;
    this.#classOf = new PiecewiseColumn(store, 'classOf', Uint32Array);
    this.#shallow = new Uint32Array(this.#count);
    this.#kind = new PiecewiseColumn(store, 'kind', Uint8Array);
    this.#position = new PiecewiseColumn(store, 'position', Float64Array);
    this.#edgeStart = new Uint32Array(this.#count + 1);
    this.#edgeTo = new Uint32Array(found.references);
    this.#hashes = new StringHashes(found.texts);
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
    for (const field of this.#classes.of(dump.id)?.dump.statics ?? []) {
      // `<resolved_references>` and its like lie elsewhere in the JVM; they are listed as statics only.
      if (this.#fieldNames.get(field.name)?.startsWith('<')) continue;
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
      ...duplicateStrings(
        this.#texts.take(),
        this.#textArrays.take(),
        this.#hashes,
        this.#shallow,
        this.#mostStrings
      )
    };
  }
}
