import type { Reader } from 'protobufjs';

// What readers of Protocol Buffers byte by byte have in common.

/** A field's tag on the wire: its number and its wire type (Protocol Buffers, "Encoding"). */
export const tag = (field: number, wireType: number): number => (field << 3) | wireType;
export const VARINT = 0;
export const FIXED64 = 1;
export const BYTES = 2;

/** Reads a length and gives where what follows ends. @throws RangeError where that is beyond the bytes. */
export function endOf(reader: Reader): number {
  const length = reader.uint32();
  const end = reader.pos + length;
  if (end > reader.len) throw new RangeError(`index out of range: ${reader.pos} + ${length} > ${reader.len}`);
  return end;
}
