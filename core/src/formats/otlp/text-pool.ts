import type { Reader } from 'protobufjs';
import { wellFormed } from '../../text/well-formed';

const SLOTS = 8192;
/** Longer texts seldom repeat, and would make the pool big. */
const MAX_BYTES = 512;

/**
 * Texts of a protobuf stream, each decoded once: attribute names and most values repeat in every span. A slot holds the
 * text last seen at its hash, so the pool is bounded whatever arrives.
 */
export class TextPool {
  readonly #bytes = new Array<Uint8Array | undefined>(SLOTS);
  readonly #texts = new Array<string>(SLOTS);

  /** Reads a length-delimited text. @throws RangeError when it runs beyond the end; Error when it is no UTF-8. */
  read(reader: Reader): string {
    const before = reader.pos;
    const length = reader.uint32();
    const from = reader.pos;
    if (length === 0) return '';
    if (length > MAX_BYTES || from + length > reader.len) return decode(reader, before);
    const { buf } = reader;
    let hash = length;
    for (let i = from; i < from + length; i++) hash = (Math.imul(hash, 31) + buf[i]) | 0;
    const slot = (hash ^ (hash >>> 15)) & (SLOTS - 1);
    const known = this.#bytes[slot];
    if (known?.length === length && equal(known, buf, from)) {
      reader.pos = from + length;
      return this.#texts[slot];
    }
    const text = decode(reader, before);
    this.#bytes[slot] = buf.slice(from, from + length);
    this.#texts[slot] = text;
    return text;
  }
}

function decode(reader: Reader, before: number): string {
  reader.pos = before;
  return wellFormed(reader.stringVerify());
}

function equal(known: Uint8Array, bytes: Uint8Array, from: number): boolean {
  for (let i = 0; i < known.length; i++) if (known[i] !== bytes[from + i]) return false;
  return true;
}
