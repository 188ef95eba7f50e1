const QUOTE = 0x22;
const COMMA = 0x2c;
const MINUS = 0x2d;
const ZERO = 0x30;
const NINE = 0x39;
const COLON = 0x3a;
const OPEN_LIST = 0x5b;
const BACKSLASH = 0x5c;
const CLOSE_LIST = 0x5d;
const OPEN = 0x7b;
const CLOSE = 0x7d;

const decoder = new TextDecoder();

/** The text is not so plain as this walk needs it, or damaged: parse it whole. */
export class NotPlain extends Error {
  constructor(at: number) {
    super(`Not plain at byte ${at}.`);
  }
}

/**
 * Walks through JSON (RFC 8259) in memory by its bytes, and makes only what is asked for: several times faster than parsing where most
 * of a text is long lists of numbers, or says the same again and again. Whatever is unusual (an escape in a key, a
 * fraction where an integer is thought to stand) is given up with `NotPlain`, and so is everything the parser refuses.
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

  /**
   * Begins an object: `for (let more = json.openObject(); more; more = json.moreMembers())` goes through its members, of which each is
   * read by `key` and then its value. @returns false for an empty one.
   */
  openObject(): boolean {
    this.#expect(OPEN);
    return !this.#take(CLOSE);
  }

  /** Likewise a list. */
  openList(): boolean {
    this.#expect(OPEN_LIST);
    return !this.#take(CLOSE_LIST);
  }

  #take(sign: number): boolean {
    if (this.#next() !== sign) return false;
    this.at++;
    return true;
  }

  moreMembers(): boolean {
    return this.#more(CLOSE);
  }

  moreItems(): boolean {
    return this.#more(CLOSE_LIST);
  }

  /** Takes what stands after a member or an item. */
  #more(close: number): boolean {
    const sign = this.#next();
    if (sign !== close && sign !== COMMA) throw new NotPlain(this.at);
    this.at++;
    return sign === COMMA;
  }

  /** Reads the key of a member: it stands in `from` and `to` (see `isKey`). */
  key(): void {
    this.#expect(QUOTE);
    this.from = this.at;
    this.at = this.#stringEnd(this.at, true);
    this.to = this.at++;
    this.#expect(COLON);
  }

  /** Whether the key read last is this one. */
  isKey(letters: Uint8Array): boolean {
    const { bytes, from } = this;
    if (this.to - from !== letters.length) return false;
    for (let i = 0; i < letters.length; i++) if (bytes[from + i] !== letters[i]) return false;
    return true;
  }

  /** An integer that is exact. */
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

  /** A list of integers, however long. */
  numbers(): Int32Array | Float64Array {
    this.#expect(OPEN_LIST);
    const { bytes } = this;
    // The end is found first: then nothing is read beyond it. A number and its comma are two bytes at least; room that is not used is never touched.
    const end = bytes.indexOf(CLOSE_LIST, this.at);
    if (end < 0) throw new NotPlain(bytes.length);
    if (this.#take(CLOSE_LIST)) return new Int32Array();
    const small = new Int32Array((end - this.at + 2) >> 1);
    let values: Int32Array | Float64Array = small;
    let count = 0;
    for (;;) {
      if (values === small) count = this.#plainNumbers(small, count);
      const one = this.whole();
      if (values === small && one !== (one | 0)) {
        values = new Float64Array(small.length);
        values.set(small.subarray(0, count));
      }
      values[count++] = one;
      const sign = this.#next();
      if (this.at++ === end) break;
      if (sign !== COMMA) throw new NotPlain(this.at);
    }
    return values.subarray(0, count);
  }

  /** Reads on as long as it is the usual: up to nine digits, which stay within the machine's small numbers, and a comma. */
  #plainNumbers(values: Int32Array, from: number): number {
    const { bytes } = this;
    let { at } = this;
    let count = from;
    for (;;) {
      let value = bytes[at] - ZERO;
      if (value <= 0 || value > 9) break;
      let next = at + 1;
      let byte = bytes[next];
      while (byte >= ZERO && byte <= NINE) {
        value = (Math.imul(value, 10) + byte - ZERO) | 0;
        byte = bytes[++next];
      }
      if (byte !== COMMA || next - at > 9) break;
      values[count++] = value;
      at = next + 1;
    }
    this.at = at;
    return count;
  }

  /**
   * An object that is very likely a known one: unread, it lies in `from` and `to`, up to the first brace that closes. That may stand within a
   * string: then what is said is no JSON, and `further` goes on to the next.
   */
  likelyObject(): void {
    if (this.#next() !== OPEN) throw new NotPlain(this.at);
    this.from = this.at;
    this.further();
  }

  further(): void {
    const end = this.bytes.indexOf(CLOSE, this.at);
    if (end < 0) throw new NotPlain(this.at);
    this.at = this.to = end + 1;
  }

  /** The value between two places, parsed. */
  parsed(from: number, to: number): unknown {
    try {
      return JSON.parse(decoder.decode(this.bytes.subarray(from, to)));
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

  /** Where the quote that ends a string stands. @param plain escapes are given up, and what no text may hold. */
  #stringEnd(from: number, plain: boolean): number {
    const { bytes } = this;
    for (let at = from; at < bytes.length; at++) {
      const byte = bytes[at];
      if (byte === QUOTE) return at;
      if (plain && (byte === BACKSLASH || byte < 0x20)) throw new NotPlain(at);
      if (byte === BACKSLASH) at++;
    }
    throw new NotPlain(bytes.length);
  }
}

/** Whether the digits in between are an integer as JSON writes it, with nothing of a fraction after them, and exact. */
function isWhole(bytes: Uint8Array, begin: number, end: number, value: number): boolean {
  const digits = end - begin;
  if (digits === 0 || (digits > 1 && bytes[begin] === ZERO)) return false;
  if (digits > 15 && value > Number.MAX_SAFE_INTEGER) return false;
  const after = bytes[end];
  return after !== 0x2e && after !== 0x65 && after !== 0x45;
}
