import protobuf, { type Reader } from 'protobufjs/light.js';

// What readers of Protocol Buffers byte by byte have in common.

/** A field's tag on the wire: its number and its wire type (Protocol Buffers, "Encoding"). */
export const tag = (field: number, wireType: number): number => (field << 3) | wireType;
export const VARINT = 0;
export const FIXED64 = 1;
export const BYTES = 2;

/** A reader of some bytes. A plain Uint8Array: it then works the same in Node and in a browser. */
export const readerOf = (bytes: Uint8Array): Reader =>
  protobuf.Reader.create(new Uint8Array(bytes.buffer as ArrayBuffer, bytes.byteOffset, bytes.byteLength));

/** Reads a length and gives where what follows ends. @throws RangeError where that is beyond the bytes. */
export function endOf(reader: Reader): number {
  const length = reader.uint32();
  const end = reader.pos + length;
  if (end > reader.len) throw new RangeError(`index out of range: ${reader.pos} + ${length} > ${reader.len}`);
  return end;
}

/** Makes sure that what was read of a message ends where the message does. @throws RangeError */
export function atEnd(reader: Reader, end: number): void {
  if (reader.pos !== end) throw new RangeError(`a field runs beyond its message, which ends at ${end}`);
}

/**
 * Reads a variable-length integer of 64 bits with a sign (`int64`; `uint64` above 2^63 − 1 comes out below zero). Exact up to 2^53, nearest beyond.
 * @throws RangeError where the bytes end within it.
 */
export function varint(reader: Reader): number {
  const { buf, len } = reader;
  // Nearly all are of three bytes at the most.
  const at = reader.pos;
  if (at + 3 <= len) {
    const first = buf[at];
    if (first < 0x80) {
      reader.pos = at + 1;
      return first;
    }
    const second = buf[at + 1];
    if (second < 0x80) {
      reader.pos = at + 2;
      return (first & 0x7f) | (second << 7);
    }
    const third = buf[at + 2];
    if (third < 0x80) {
      reader.pos = at + 3;
      return (first & 0x7f) | ((second & 0x7f) << 7) | (third << 14);
    }
  }
  return longVarint(reader);
}

function longVarint(reader: Reader): number {
  const { buf, len } = reader;
  // In parts of 28 bits, which add up exactly.
  const parts = [0, 0, 0];
  for (let i = 0; i < 10; i++) {
    if (reader.pos >= len) throw new RangeError(`index out of range: ${reader.pos} >= ${len}`);
    const byte = buf[reader.pos++];
    parts[i >> 2] |= (byte & 0x7f) << (7 * (i & 3));
    if (byte < 0x80) break;
  }
  const [low, middle, high] = parts;
  // Two bytes hold the highest eight bits; the last of them is the sign.
  const top = high & 0x80 ? (high & 0xff) - 0x100 : high;
  return top * 2 ** 56 + middle * 2 ** 28 + low;
}

/** Reads an integer that is not negative where a file begins, which may be cut off or nothing of the kind: then `next` is −1. */
export function shortVarint(bytes: Uint8Array, at: number): { value: number; next: number } {
  let value = 0;
  for (let i = 0; i < 10 && at + i < bytes.length; i++) {
    value += (bytes[at + i] & 0x7f) * 2 ** (7 * i);
    if (bytes[at + i] < 0x80) return { value, next: at + i + 1 };
  }
  return { value: 0, next: -1 };
}
