import { Warnings } from '../formats/evidence-error';
import type { ColumnStore } from './column-store';
import { ByteCursor, MAX_ENSURE } from './byte-source';
import type { HeapDump, HprofLayout } from './heap-index';
import { PiecewiseColumn } from './piecewise-column';
import { HPROF_ROOTS, OBJECT_TYPE, walkHprof, type HprofClassDump } from './hprof-walk';
import type { IdMap } from './id-map';
import { javaClassName } from './java-names';

/** What the first walk finds: who there is. */
export interface Inventory {
  /** Objects; their ids are stored. */
  count: number;
  classDumps: Map<number, HprofClassDump>;
  classNames: Map<number, string>;
  /** Names of fields, by the number they have in the dump. */
  fieldNames: Map<number, string>;
  /** Length of the reference lists altogether, at most. */
  references: number;
  roots: { tag: number; id: number; first: number; second: number }[];
  threads: Map<number, { thread: number; frames: string[] }>;
  texts: number;
}

/** The first walk: who there is. The objects’ ids go to the store. */
export function takeInventory(
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
    fieldNames: new Map(),
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
    for (const { name } of [...dump.fields, ...dump.statics])
      found.fieldNames.set(name, texts.get(name) ?? '');
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
export function layoutOf({ classDumps, classNames, fieldNames }: Inventory, idSize: number): HprofLayout {
  return {
    idSize,
    classes: [...classDumps.values()].map((dump) => ({
      id: dump.id,
      name: classNames.get(dump.id) ?? '',
      superId: dump.superId,
      fields: dump.fields.map((field) => ({ name: fieldNames.get(field.name) ?? '', type: field.type })),
      statics: dump.statics.map((field) => ({
        name: fieldNames.get(field.name) ?? '',
        type: field.type,
        value: field.value
      }))
    }))
  };
}

/** Objects that are roots, and how many records of each kind of root the dump has. */
export function rootsOf(
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
