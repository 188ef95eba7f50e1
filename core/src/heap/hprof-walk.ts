import { EvidenceError, type Warnings } from '../formats/evidence-error';
import { EndOfBytes, idAt, u4At, type ByteCursor } from './byte-source';

/** Types of values (HPROF 1.0.2: "basic types"). */
export const OBJECT_TYPE = 2;
const TYPE_SIZES: Record<number, number> = { 4: 1, 5: 2, 6: 4, 7: 8, 8: 1, 9: 2, 10: 4, 11: 8 };
export const TYPE_NAMES: Record<number, string> = {
  2: 'object',
  4: 'boolean',
  5: 'char',
  6: 'float',
  7: 'double',
  8: 'byte',
  9: 'short',
  10: 'int',
  11: 'long'
};

/** Bytes of a value; undefined for a type that is none. */
export const typeSize = (type: number, idSize: number): number | undefined =>
  type === OBJECT_TYPE || type === 1 ? idSize : TYPE_SIZES[type];

export interface HprofField {
  name: number;
  type: number;
}
export interface HprofStatic extends HprofField {
  /** Of an object: its object id; else its bits as a number. */
  value: number;
}
export interface HprofClassDump {
  id: number;
  superId: number;
  loader: number;
  /** Signers, protection domain and further objects the class refers to. */
  others: number[];
  instanceSize: number;
  constants: { index: number; type: number; value: number }[];
  statics: HprofStatic[];
  fields: HprofField[];
}

/** Kinds of roots by their tag (HPROF 1.0.2; those from 0x89 on are of Android's variant), and how many bytes follow the object id. */
export const HPROF_ROOTS: Record<number, { kind: string; about: string; ids: number; words: number }> = {
  0xff: { kind: 'unknown', about: 'held for a reason the dump does not tell', ids: 0, words: 0 },
  0x01: { kind: 'JNI global', about: 'held by native code until it lets go', ids: 1, words: 0 },
  0x02: { kind: 'JNI local', about: 'held by native code that just runs', ids: 0, words: 2 },
  0x03: { kind: 'Java frame', about: 'a local variable of a method that just runs', ids: 0, words: 2 },
  0x04: { kind: 'native stack', about: 'on the stack of native code', ids: 0, words: 1 },
  0x05: {
    kind: 'system class',
    about: 'a class of the machine itself, which is never unloaded',
    ids: 0,
    words: 0
  },
  0x06: { kind: 'thread block', about: 'held by a running thread', ids: 0, words: 1 },
  0x07: { kind: 'monitor', about: 'a lock that is held or waited for', ids: 0, words: 0 },
  0x08: { kind: 'thread', about: 'a thread that is alive', ids: 0, words: 2 },
  0x89: { kind: 'interned string', about: 'a text the machine keeps once', ids: 0, words: 0 },
  0x8a: { kind: 'finalizing', about: 'waits to be finalized', ids: 0, words: 0 },
  0x8b: { kind: 'debugger', about: 'held by a debugger', ids: 0, words: 0 },
  0x8c: { kind: 'reference cleanup', about: 'held while references are cleaned up', ids: 0, words: 0 },
  0x8d: { kind: 'VM internal', about: 'held by the machine itself', ids: 0, words: 0 },
  0x8e: { kind: 'JNI monitor', about: 'a lock that native code holds', ids: 0, words: 2 },
  0x90: { kind: 'unreachable', about: 'recorded though nothing holds it', ids: 0, words: 0 }
};

/** What a walk through a dump meets. Every method may read what belongs to its record and need not. */
export interface HprofVisitor {
  text?: (id: number, length: number, cursor: ByteCursor) => void;
  loadClass?: (classId: number, nameId: number, serial: number) => void;
  frame?: (id: number, method: number, file: number, line: number, classSerial: number) => void;
  trace?: (serial: number, thread: number, frames: number[]) => void;
  root?: (tag: number, id: number, first: number, second: number) => void;
  classDump?: (dump: HprofClassDump, at: number) => void;
  instance?: (id: number, classId: number, bytes: number, cursor: ByteCursor, at: number) => void;
  objects?: (id: number, classId: number, length: number, cursor: ByteCursor, at: number) => void;
  primitives?: (id: number, type: number, length: number, cursor: ByteCursor, at: number) => void;
  /** After each record. */
  progress?: (position: number) => void;
}

export interface HprofHead {
  version: string;
  idSize: number;
  capturedAtMs: number;
}

/** @throws EvidenceError `not-hprof`. */
export function readHead(cursor: ByteCursor): HprofHead {
  let version = '';
  try {
    for (let byte = cursor.u1(); byte !== 0 && version.length < 32; byte = cursor.u1())
      version += String.fromCharCode(byte);
    const idSize = cursor.u4();
    const capturedAtMs = cursor.u4() * 4_294_967_296 + cursor.u4();
    if (version.startsWith('JAVA PROFILE 1.0') && (idSize === 4 || idSize === 8))
      return { version, idSize, capturedAtMs };
  } catch (cause) {
    if (!(cause instanceof EndOfBytes)) throw cause;
  }
  throw new EvidenceError(
    'not-hprof',
    `Expected a heap dump of a JVM (JAVA PROFILE 1.0.1 or 1.0.2, object ids of 4 or 8 bytes), but found “${version.slice(0, 24)}” at byte 0. Take the dump again.`,
    0
  );
}

/**
 * Walks through all records (source of the form: the JDK's HPROF binary format, `hprof_b_spec`). Where a dump ends early or turns out
 * damaged, what stands before is met, and a warning says where it broke off.
 */
export function walkHprof(
  cursor: ByteCursor,
  idSize: number,
  visitor: HprofVisitor,
  warnings: Warnings
): void {
  try {
    while (cursor.left > 0) {
      const at = cursor.position;
      const tag = cursor.u1();
      cursor.u4();
      const claimed = cursor.u4();
      const begin = cursor.position;
      const heap = tag === 0x0c || tag === 0x1c;
      // Machines write 0, or a length that ran over, for a heap in one record of more than 4 GB.
      const length = heap && tag === 0x0c && claimed === 0 ? cursor.left : claimed;
      if (length > cursor.left)
        warnings.add(
          'truncated',
          `A record at byte ${at} claims ${length} bytes, but ${cursor.left} are left: the dump is cut off, or still being written. What is there was read.`
        );
      if (heap) walkHeap(cursor, idSize, begin + Math.min(length, cursor.left), visitor);
      else if (tag === 0x2c) return;
      else {
        walkTop(cursor, tag, idSize, length, visitor);
        cursor.skip(begin + length - cursor.position);
      }
      visitor.progress?.(cursor.position);
    }
  } catch (cause) {
    if (cause instanceof EndOfBytes)
      warnings.add(
        'truncated',
        `The dump ends in the middle of a record, at byte ${cause.at}. What stands before was read.`
      );
    else if (cause instanceof Damaged)
      warnings.add('damaged', `${cause.message} What stands before was read; ${cursor.left} bytes were not.`);
    else throw cause;
  }
}

class Damaged extends Error {}

function walkTop(
  cursor: ByteCursor,
  tag: number,
  idSize: number,
  length: number,
  visitor: HprofVisitor
): void {
  switch (tag) {
    case 0x01:
      if (length < idSize)
        throw new Damaged(`A text at byte ${cursor.position} is shorter than its object id.`);
      visitor.text?.(cursor.id(idSize), length - idSize, cursor);
      break;
    case 0x02: {
      const serial = cursor.u4();
      const id = cursor.id(idSize);
      cursor.u4();
      visitor.loadClass?.(id, cursor.id(idSize), serial);
      break;
    }
    case 0x04: {
      const id = cursor.id(idSize);
      const method = cursor.id(idSize);
      cursor.id(idSize);
      const file = cursor.id(idSize);
      const classSerial = cursor.u4();
      visitor.frame?.(id, method, file, cursor.u4() | 0, classSerial);
      break;
    }
    case 0x05: {
      const serial = cursor.u4();
      const thread = cursor.u4();
      const count = Math.min(cursor.u4(), Math.floor(length / idSize));
      const frames: number[] = [];
      for (let i = 0; i < count; i++) frames.push(cursor.id(idSize));
      visitor.trace?.(serial, thread, frames);
    }
  }
}

/** Records between two tellings of how far it is. */
const TELL_EVERY = 8192;

function walkHeap(cursor: ByteCursor, idSize: number, end: number, visitor: HprofVisitor): void {
  for (let records = 1; cursor.position < end; records++) {
    const at = cursor.position;
    const tag = cursor.u1();
    // Nearly all records are objects: their heads are read at one go.
    if (tag === 0x21) walkInstance(cursor, idSize, at, visitor);
    else if (tag === 0x22) walkObjects(cursor, idSize, at, visitor);
    else if (tag === 0x23 || tag === 0xc3) walkPrimitives(cursor, idSize, at, tag, visitor);
    else if (tag === 0x20) visitor.classDump?.(readClassDump(cursor, idSize), at);
    else if (tag === 0xfe) cursor.skip(4 + idSize);
    else walkRoot(cursor, tag, at, idSize, visitor);
    if (records % TELL_EVERY === 0) visitor.progress?.(cursor.position);
  }
}

function walkInstance(cursor: ByteCursor, idSize: number, at: number, visitor: HprofVisitor): void {
  cursor.ensure(8 + 2 * idSize);
  const { bytes, at: from } = cursor;
  const id = idAt(bytes, from, idSize);
  const classId = idAt(bytes, from + idSize + 4, idSize);
  const length = u4At(bytes, from + 2 * idSize + 4);
  cursor.at = from + 8 + 2 * idSize;
  const next = cursor.position + length;
  visitor.instance?.(id, classId, length, cursor, at);
  cursor.skip(next - cursor.position);
}

function walkObjects(cursor: ByteCursor, idSize: number, at: number, visitor: HprofVisitor): void {
  cursor.ensure(8 + 2 * idSize);
  const { bytes, at: from } = cursor;
  const id = idAt(bytes, from, idSize);
  const length = u4At(bytes, from + idSize + 4);
  const classId = idAt(bytes, from + idSize + 8, idSize);
  cursor.at = from + 8 + 2 * idSize;
  const next = cursor.position + length * idSize;
  visitor.objects?.(id, classId, length, cursor, at);
  cursor.skip(next - cursor.position);
}

function walkPrimitives(
  cursor: ByteCursor,
  idSize: number,
  at: number,
  tag: number,
  visitor: HprofVisitor
): void {
  cursor.ensure(9 + idSize);
  const { bytes, at: from } = cursor;
  const id = idAt(bytes, from, idSize);
  // Android's variant may leave the content out.
  const length = tag === 0xc3 ? 0 : u4At(bytes, from + idSize + 4);
  const type = bytes[from + idSize + 8];
  cursor.at = from + 9 + idSize;
  const size = TYPE_SIZES[type];
  if (size === undefined)
    throw new Damaged(`An array at byte ${at} has elements of the unknown type ${type}.`);
  const next = cursor.position + length * size;
  visitor.primitives?.(id, type, length, cursor, at);
  cursor.skip(next - cursor.position);
}

function walkRoot(cursor: ByteCursor, tag: number, at: number, idSize: number, visitor: HprofVisitor): void {
  const root = HPROF_ROOTS[tag];
  if (!root) throw new Damaged(`At byte ${at} stands 0x${tag.toString(16)}, which is no record of a heap.`);
  const id = cursor.id(idSize);
  for (let i = 0; i < root.ids; i++) cursor.id(idSize);
  const first = root.words > 0 ? cursor.u4() : 0;
  const second = root.words > 1 ? cursor.u4() : 0;
  visitor.root?.(tag, id, first, second);
}

function readClassDump(cursor: ByteCursor, idSize: number): HprofClassDump {
  const id = cursor.id(idSize);
  cursor.u4();
  const superId = cursor.id(idSize);
  const loader = cursor.id(idSize);
  const others = [0, 1, 2, 3].map(() => cursor.id(idSize));
  const instanceSize = cursor.u4();
  const constants: HprofClassDump['constants'] = [];
  for (let left = cursor.u2(); left > 0; left--) {
    const index = cursor.u2();
    const type = cursor.u1();
    constants.push({ index, type, value: readValue(cursor, type, idSize) });
  }
  const statics: HprofStatic[] = [];
  for (let left = cursor.u2(); left > 0; left--) {
    const name = cursor.id(idSize);
    const type = cursor.u1();
    statics.push({ name, type, value: readValue(cursor, type, idSize) });
  }
  const fields: HprofField[] = [];
  for (let left = cursor.u2(); left > 0; left--) {
    const name = cursor.id(idSize);
    const type = cursor.u1();
    if (typeSize(type, idSize) === undefined)
      throw new Damaged(`A field at byte ${cursor.position} has the unknown type ${type}.`);
    fields.push({ name, type });
  }
  return { id, superId, loader, others, instanceSize, constants, statics, fields };
}

const scratch = new DataView(new ArrayBuffer(8));

/** A value of a type; objects by their object id. */
export function readValue(cursor: ByteCursor, type: number, idSize: number): number {
  if (type === OBJECT_TYPE || type === 1) return cursor.id(idSize);
  const size = TYPE_SIZES[type];
  if (size === undefined)
    throw new Damaged(`A value at byte ${cursor.position} has the unknown type ${type}.`);
  cursor.ensure(size);
  for (let i = 0; i < size; i++) scratch.setUint8(i, cursor.bytes[cursor.at + i]);
  cursor.at += size;
  return valueOf(scratch, 0, type);
}

/** A primitive value; a `long` beyond 2⁵³ loses its last digits. */
export function valueOf(view: DataView, at: number, type: number): number {
  switch (type) {
    case 5:
      return view.getUint16(at);
    case 6:
      return view.getFloat32(at);
    case 7:
      return view.getFloat64(at);
    case 8:
      return view.getInt8(at);
    case 9:
      return view.getInt16(at);
    case 10:
      return view.getInt32(at);
    case 11:
      return Number(view.getBigInt64(at));
    default:
      return view.getUint8(at);
  }
}
