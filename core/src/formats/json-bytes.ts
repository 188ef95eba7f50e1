const QUOTE = 0x22;
const COMMA = 0x2c;
const MINUS = 0x2d;
const ZERO = 0x30;
const COLON = 0x3a;
const OPEN_LIST = 0x5b;
const BACKSLASH = 0x5c;
const CLOSE_LIST = 0x5d;
const OPEN = 0x7b;
const CLOSE = 0x7d;

/** The text is not so plain as this walk needs it, or damaged: parse it whole. */
export class NotPlain extends Error {
  constructor(at: number) {
    super(`Not plain at byte ${at}.`);
  }
}

/**
 * Walks through JSON (RFC 8259) in memory by its bytes, and makes only what is asked for: several times faster than parsing where most
 * of a text is long lists of numbers, or says the same again and again. Whatever is unusual (an escape in a key, a
 * fraction where a whole number is thought to stand) is given up with `NotPlain`, and so is everything the parser refuses.
 */
export class JsonBytes {
  readonly bytes: Uint8Array;
  at = 0;
  /** Where the key or object read last begins and ends. */
  from = 0;
  to = 0;

  /** @param bytes UTF-8. */
  constructor(bytes: Uint8Array) {
    this.bytes = bytes;
  }

  /** The next byte that is no white space; it is not taken. NaN at the end. */
  #next(): number {
    const { bytes } = this;
    let { at } = this;
    while (bytes[at] <= 0x20) {
      const byte = bytes[at];
      if (byte !== 0x20 && byte !== 0x0a && byte !== 0x0d && byte !== 0x09) throw new NotPlain(at);
      at++;
    }
    this.at = at;
    return at < bytes.length ? bytes[at] : NaN;
  }

  #expect(sign: number): void {
    if (this.#next() !== sign) throw new NotPlain(this.at);
    this.at++;
  }

  /** Goes through an object's members: each key stands in `from` and `to` (see `isKey`), and `member` takes its value. */
  object(member: () => void): void {
    this.#expect(OPEN);
    if (this.#next() === CLOSE) {
      this.at++;
      return;
    }
    for (;;) {
      this.#expect(QUOTE);
      this.from = this.at;
      this.at = this.#stringEnd(this.at, true);
      this.to = this.at++;
      this.#expect(COLON);
      member();
      if (this.#ends(CLOSE)) return;
    }
  }

  /** Goes through a list. */
  list(item: () => void): void {
    this.#expect(OPEN_LIST);
    if (this.#next() === CLOSE_LIST) {
      this.at++;
      return;
    }
    do item();
    while (!this.#ends(CLOSE_LIST));
  }

  /** Takes what stands after a member or an item. @returns whether it was the last. */
  #ends(close: number): boolean {
    const sign = this.#next();
    this.at++;
    if (sign === close) return true;
    if (sign !== COMMA) throw new NotPlain(this.at - 1);
    return false;
  }

  /** Whether the key read last is this one. */
  isKey(letters: Uint8Array): boolean {
    const { bytes, from } = this;
    if (this.to - from !== letters.length) return false;
    for (let i = 0; i < letters.length; i++) if (bytes[from + i] !== letters[i]) return false;
    return true;
  }

  /** A whole number that is exact. */
  whole(): number {
    this.#next();
    const { bytes } = this;
    let { at } = this;
    const negative = bytes[at] === MINUS;
    if (negative) at++;
    const begin = at;
    let value = 0;
    for (let digit = bytes[at] - ZERO; digit >= 0 && digit <= 9; digit = bytes[++at] - ZERO)
      value = value * 10 + digit;
    if (!isWhole(bytes, begin, at, value)) throw new NotPlain(at);
    this.at = at;
    return negative ? -value : value;
  }

  /** A list of whole numbers, however long. */
  numbers(): Float64Array {
    this.#expect(OPEN_LIST);
    const { bytes } = this;
    // The end is found first: then nothing is read beyond it. A number and its comma are two bytes at least; room that is not used is never touched.
    const end = bytes.indexOf(CLOSE_LIST, this.at);
    if (end < 0) throw new NotPlain(bytes.length);
    if (this.#next() === CLOSE_LIST) {
      this.at = end + 1;
      return new Float64Array();
    }
    const values = new Float64Array((end - this.at + 2) >> 1);
    let count = 0;
    let { at } = this;
    for (;;) {
      if (bytes[at] <= 0x20) at = this.#blank(at);
      const negative = bytes[at] === MINUS;
      if (negative) at++;
      const begin = at;
      let value = 0;
      for (let digit = bytes[at] - ZERO; digit >= 0 && digit <= 9; digit = bytes[++at] - ZERO)
        value = value * 10 + digit;
      if (!isWhole(bytes, begin, at, value)) throw new NotPlain(at);
      values[count++] = negative ? -value : value;
      if (bytes[at] <= 0x20) at = this.#blank(at);
      if (at === end) break;
      if (bytes[at++] !== COMMA) throw new NotPlain(at);
    }
    this.at = end + 1;
    return values.subarray(0, count);
  }

  #blank(at: number): number {
    this.at = at;
    this.#next();
    return this.at;
  }

  /**
   * An object without another inside it, unread: it lies in `from` and `to`.
   * @returns a hash of its bytes (FNV-1a, 32 bits): equal objects have equal ones.
   */
  flatObject(): number {
    if (this.#next() !== OPEN) throw new NotPlain(this.at);
    const { bytes } = this;
    this.from = this.at;
    let hash = 0x811c9dc5;
    let inString = false;
    for (let at = this.at; at < bytes.length; at++) {
      const byte = bytes[at];
      hash = Math.imul(hash ^ byte, 0x01000193);
      if (byte === QUOTE) inString = !inString;
      else if (byte === BACKSLASH) hash = Math.imul(hash ^ bytes[++at], 0x01000193);
      else if (!inString && byte === CLOSE) {
        this.at = this.to = at + 1;
        return hash >>> 0;
      } else if (!inString && byte === OPEN && at > this.from) break;
    }
    throw new NotPlain(this.from);
  }

  /** The value between two places, parsed. */
  parsed(from: number, to: number): unknown {
    try {
      return JSON.parse(new TextDecoder().decode(this.bytes.subarray(from, to)));
    } catch {
      throw new NotPlain(from);
    }
  }

  /** Any value, parsed. */
  value(): unknown {
    this.#next();
    const from = this.at;
    this.at = this.#valueEnd(from);
    return this.parsed(from, this.at);
  }

  /** Nothing but white space may follow. */
  end(): void {
    if (!Number.isNaN(this.#next())) throw new NotPlain(this.at);
  }

  #valueEnd(from: number): number {
    const { bytes } = this;
    let depth = 0;
    for (let at = from; at < bytes.length; at++) {
      const byte = bytes[at];
      if (byte === QUOTE) at = this.#stringEnd(at + 1, false);
      else if (byte === OPEN || byte === OPEN_LIST) depth++;
      else if (byte === CLOSE || byte === CLOSE_LIST || byte === COMMA) {
        if (depth === 0) return at;
        if (byte !== COMMA) depth--;
      }
    }
    throw new NotPlain(bytes.length);
  }

  /** Where the quote that ends a string stands. @param plain escapes are given up. */
  #stringEnd(from: number, plain: boolean): number {
    const { bytes } = this;
    for (let at = from; at < bytes.length; at++) {
      const byte = bytes[at];
      if (byte === QUOTE) return at;
      if (byte !== BACKSLASH) continue;
      if (plain) throw new NotPlain(at);
      at++;
    }
    throw new NotPlain(bytes.length);
  }
}

/** Whether the digits in between are a whole number as JSON writes it, with nothing of a fraction after them, and exact. */
function isWhole(bytes: Uint8Array, begin: number, end: number, value: number): boolean {
  const digits = end - begin;
  if (digits === 0 || (digits > 1 && bytes[begin] === ZERO)) return false;
  if (digits > 15 && value > Number.MAX_SAFE_INTEGER) return false;
  const after = bytes[end];
  return after !== 0x2e && after !== 0x65 && after !== 0x45;
}
