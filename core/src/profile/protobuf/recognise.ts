import { BYTES, shortVarint, tag, VARINT } from '../../formats/wire';

/** Fields of a profile by number and how each is on the wire; the comments (13) may be packed or not. */
const FIELDS = new Set([
  ...[1, 2, 3, 4, 5, 6, 11, 13].map((field) => tag(field, BYTES)),
  ...[7, 8, 9, 10, 12, 13, 14, 15].map((field) => tag(field, VARINT))
]);

/**
 * True for the beginning of a protobuf profile: its known fields one after another, and among the first either a type of value (two numbers in a message of a
 * few bytes) or the first text, which is empty in each of them.
 */
export function looksLikeProtobufProfile(bytes: Uint8Array): boolean {
  let at = 0;
  for (let fields = 0; fields < MOST_FIELDS && at < bytes.length; fields++) {
    const found = bytes[at++];
    if (!FIELDS.has(found)) return false;
    const { value, next } = shortVarint(bytes, at);
    if (next < 0) return false;
    if ((found & 7) === VARINT) {
      at = next;
      continue;
    }
    if (found === tag(6, BYTES) && value === 0) return true;
    if (found === tag(1, BYTES)) return isTypeOfValue(bytes, next, next + value);
    at = next + value;
  }
  return false;
}

/** Long enough for a writer that begins with what it recorded at. */
const MOST_FIELDS = 40;

function isTypeOfValue(bytes: Uint8Array, from: number, to: number): boolean {
  if (to > bytes.length || to - from > 22) return false;
  for (let at = from; at < to;) {
    if (bytes[at] !== tag(1, VARINT) && bytes[at] !== tag(2, VARINT)) return false;
    at = shortVarint(bytes, at + 1).next;
    if (at < 0) return false;
  }
  return to > from;
}
