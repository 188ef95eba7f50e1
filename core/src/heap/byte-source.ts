/** Bytes that can be read from anywhere: a file, or memory. */
export interface ByteSource {
  readonly length: number;
  /** Fills `into` from an offset on; gives how many bytes it got, fewer only at the end. */
  read: (offset: number, into: Uint8Array) => number;
}

/** Bytes in memory as a source. */
export function bytesSource(bytes: Uint8Array): ByteSource {
  return {
    length: bytes.length,
    read(offset, into) {
      const part = bytes.subarray(offset, offset + into.length);
      into.set(part);
      return part.length;
    }
  };
}

/** The source ended within something. */
export class EndOfBytes extends Error {
  readonly at: number;
  constructor(at: number) {
    super(`The bytes end at ${at}.`);
    this.at = at;
  }
}

const WINDOW = 4 * 1024 * 1024;

/** Walks through a source by a window: big-endian numbers, and bytes to look at without a copy. */
export class ByteCursor {
  readonly #source: ByteSource;
  /** What lies in the window; `bytes[at]` is the next byte. */
  bytes: Uint8Array;
  at = 0;
  #filled = 0;
  /** Offset in the source of the window's first byte. */
  #base = 0;

  /** @param window bytes held at once; small ones for a look at a single record. */
  constructor(source: ByteSource, from = 0, window = WINDOW) {
    this.#source = source;
    this.#base = from;
    this.bytes = new Uint8Array(Math.min(window, Math.max(16, source.length)));
  }

  get position(): number {
    return this.#base + this.at;
  }

  get left(): number {
    return this.#source.length - this.position;
  }

  /** Makes sure that so many bytes lie at `at`. @throws EndOfBytes where the source has no more. */
  ensure(count: number): void {
    if (this.at + count <= this.#filled) return;
    if (count > this.left) throw new EndOfBytes(this.#source.length);
    const rest = this.#filled - this.at;
    if (count > this.bytes.length) {
      const wider = new Uint8Array(count);
      wider.set(this.bytes.subarray(this.at, this.#filled));
      this.bytes = wider;
    } else if (rest > 0) this.bytes.copyWithin(0, this.at, this.#filled);
    this.#base += this.at;
    this.at = 0;
    this.#filled = Math.max(0, rest);
    while (this.#filled < count) {
      const got = this.#source.read(this.#base + this.#filled, this.bytes.subarray(this.#filled));
      if (got <= 0) throw new EndOfBytes(this.#base + this.#filled);
      this.#filled += got;
    }
  }

  /** How many bytes lie ready, at least one. @throws EndOfBytes */
  some(): number {
    this.ensure(1);
    return this.#filled - this.at;
  }

  u1(): number {
    this.ensure(1);
    return this.bytes[this.at++];
  }

  u2(): number {
    this.ensure(2);
    const { bytes, at } = this;
    this.at += 2;
    return (bytes[at] << 8) | bytes[at + 1];
  }

  u4(): number {
    this.ensure(4);
    const { bytes, at } = this;
    this.at += 4;
    return u4At(bytes, at);
  }

  /** An object id of 4 or 8 bytes; exact to 2⁵³, as addresses are. */
  id(size: number): number {
    this.ensure(size);
    const { bytes, at } = this;
    this.at += size;
    return idAt(bytes, at, size);
  }

  /** Goes on by so many bytes, which may lie beyond the window. @throws EndOfBytes where the source ends before. */
  skip(count: number): void {
    if (this.at + count <= this.#filled) {
      this.at += count;
      return;
    }
    const next = this.position + count;
    if (next > this.#source.length) throw new EndOfBytes(this.#source.length);
    this.seek(next);
  }

  seek(offset: number): void {
    this.#base = offset;
    this.at = 0;
    this.#filled = 0;
  }
}

export function u4At(bytes: Uint8Array, at: number): number {
  return ((bytes[at] << 24) | (bytes[at + 1] << 16) | (bytes[at + 2] << 8) | bytes[at + 3]) >>> 0;
}

export function idAt(bytes: Uint8Array, at: number, size: number): number {
  if (size === 4) return u4At(bytes, at);
  return (u4At(bytes, at) & 0x1fffff) * 4_294_967_296 + u4At(bytes, at + 4);
}

/** Longest part that is held at once. */
export const MAX_ENSURE = WINDOW;
/** A window for a single record. */
export const SMALL_WINDOW = 2048;
