import type { FileHead } from '../../formats/file-head';
import { BYTES, shortVarint, tag, VARINT } from '../../formats/wire';

/** True for the beginning of OTLP profiles, in JSON or protobuf. */
export const looksLikeOtlpProfiles = (head: Pick<FileHead, 'bytes' | 'text' | 'isObject'>): boolean =>
  head.isObject ? /"resourceProfiles"\s*:/.test(head.text) : hasProfileInside(head.bytes);

/** Where the fields of one number lie in a message, which may be cut off. */
function* fieldsOf(bytes: Uint8Array, from: number, to: number, wanted: number): Generator<[number, number]> {
  for (let at = from; at < to;) {
    const found = shortVarint(bytes, at);
    if (found.next < 0) return;
    const { value, next } = shortVarint(bytes, found.next);
    if (next < 0) return;
    const wire = found.value & 7;
    if (wire !== BYTES && wire !== VARINT) return;
    const end = wire === BYTES ? next + value : next;
    if (found.value === wanted) yield [next, Math.min(end, to)];
    at = end;
  }
}

const FIRST = tag(1, BYTES);
const SECOND = tag(2, BYTES);

/**
 * The messages of profiles are nested as those of spans are: resource, scope, item. The first item tells them apart: a span begins with its id of 16 bytes, a
 * profile with what its values are, at most two small numbers, or with its samples.
 */
function hasProfileInside(bytes: Uint8Array): boolean {
  for (const group of fieldsOf(bytes, 0, bytes.length, FIRST))
    for (const scope of fieldsOf(bytes, ...group, SECOND))
      for (const [from, to] of fieldsOf(bytes, ...scope, SECOND)) {
        const { value: length, next } = shortVarint(bytes, from + 1);
        if (next < 0 || next >= to) continue;
        if (bytes[from] === FIRST) {
          const inner = bytes[next];
          return length <= 12 && (inner === tag(1, VARINT) || inner === tag(2, VARINT));
        }
        return bytes[from] === SECOND && bytes[next] === tag(1, VARINT);
      }
  return false;
}
