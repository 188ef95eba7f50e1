import { EvidenceError } from '../formats/evidence-error';
import type { ByteCursor } from './byte-source';
import { GrowableArray } from './growable-array';

const QUOTE = 34;
const COMMA = 44;
const MINUS = 45;
const OPEN_LIST = 91;
const BACKSLASH = 92;
const CLOSE_LIST = 93;
const OPEN = 123;
const CLOSE = 125;
const LINE = 10;
/** Groups of numbers handed over at once. */
const GROUPS_AT_ONCE = 32_768;
/** No number of the usual kind is longer, with what follows it. */
const SAFE_BYTES = 16;

/** Longest key or small part kept in memory. */
const MAX_PART = 1024 * 1024;

/** Walks through one large JSON object by its bytes, without ever holding it: only what is asked for is made. */
export class JsonScan {
  readonly #cursor: ByteCursor;

  constructor(cursor: ByteCursor) {
    this.#cursor = cursor;
  }

  #blank(): number {
    const cursor = this.#cursor;
    for (;;) {
      cursor.ensure(1);
      const byte = cursor.bytes[cursor.at];
      if (byte > 32) return byte;
      cursor.at++;
    }
  }

  /** Takes the next sign, which must be this one. */
  expect(sign: number, what: string): void {
    const found = this.#blank();
    if (found !== sign)
      throw new EvidenceError(
        'not-json',
        `Expected ${what} at byte ${this.#cursor.position}, but found “${String.fromCharCode(found)}”.`,
        this.#cursor.position
      );
    this.#cursor.at++;
  }

  /** The keys of the object, one after another; each value must be read or skipped before the next. */
  *keys(): Generator<string> {
    this.expect(OPEN, 'a JSON object');
    for (;;) {
      const next = this.#blank();
      if (next === CLOSE) return;
      if (next === COMMA) {
        this.#cursor.at++;
        continue;
      }
      const key = this.string();
      this.expect(58, 'a colon');
      yield key;
    }
  }

  /** A string as it stands, decoded. */
  string(): string {
    this.expect(QUOTE, 'a string');
    const cursor = this.#cursor;
    const bytes: number[] = [QUOTE];
    for (let escaped = false; ;) {
      const byte = cursor.u1();
      bytes.push(byte);
      if (byte === QUOTE && !escaped) break;
      escaped = byte === BACKSLASH && !escaped;
      if (bytes.length > MAX_PART)
        throw new EvidenceError(
          'too-long',
          `A text at byte ${cursor.position} is too long for its place.`,
          cursor.position
        );
    }
    return this.#parsed(bytes) as string;
  }

  /** A value of modest size, parsed. */
  value(): unknown {
    const cursor = this.#cursor;
    const bytes: number[] = [];
    this.skip((byte) => {
      bytes.push(byte);
      if (bytes.length > MAX_PART)
        throw new EvidenceError(
          'too-long',
          `The head of the file does not end within ${MAX_PART} bytes.`,
          cursor.position
        );
    });
    return this.#parsed(bytes);
  }

  #parsed(bytes: readonly number[]): unknown {
    const { position } = this.#cursor;
    try {
      return JSON.parse(new TextDecoder().decode(Uint8Array.from(bytes)));
    } catch {
      throw new EvidenceError(
        'not-json',
        `Expected a JSON value before byte ${position}, but it does not parse.`,
        position
      );
    }
  }

  /** Skips a value of any size. @param each called with every byte of it. */
  skip(each?: (byte: number) => void): void {
    const cursor = this.#cursor;
    let depth = 0;
    if (this.#blank() === OPEN_LIST && !each) {
      cursor.at++;
      if (this.#skipNumbers()) return;
      depth = 1;
    }
    let inString = false;
    let escaped = false;
    for (;;) {
      const end = cursor.some() + cursor.at;
      const { bytes } = cursor;
      for (let { at } = cursor; at < end; at++) {
        const byte = bytes[at];
        if (!inString && depth === 0 && (byte === COMMA || byte === CLOSE || byte === CLOSE_LIST)) {
          cursor.at = at;
          return;
        }
        each?.(byte);
        if (inString) {
          if (byte === QUOTE && !escaped) inString = false;
          escaped = byte === BACKSLASH && !escaped;
        } else if (byte === QUOTE) inString = true;
        else if (byte === OPEN || byte === OPEN_LIST) depth++;
        else if (byte === CLOSE || byte === CLOSE_LIST) depth--;
      }
      cursor.at = end;
    }
  }

  /** Skips a list, whose bracket was taken, as far as nothing is nested in it. @returns whether it was skipped whole. */
  #skipNumbers(): boolean {
    const cursor = this.#cursor;
    for (;;) {
      const end = cursor.some() + cursor.at;
      const { bytes, at: from } = cursor;
      const within = (sign: number): number => {
        const at = bytes.indexOf(sign, from);
        return at < 0 || at >= end ? end : at;
      };
      const close = within(CLOSE_LIST);
      if (Math.min(within(QUOTE), within(OPEN), within(OPEN_LIST)) < close) return false;
      cursor.at = close;
      if (close === end) continue;
      cursor.at++;
      return true;
    }
  }

  /**
   * A list of integers below 2³², of which there may be a hundred million, in groups of so many; many groups are handed over at once.
   * @param take called with the numbers one after another (those from 2³¹ on wrapped: `>>> 0` unwraps them), and how many whole groups they are; they
   * are overwritten afterwards.
   * @returns numbers left over of a group that is not whole.
   */
  numbers(groupOf: number, take: (numbers: Int32Array, groups: number) => void): number {
    this.expect(OPEN_LIST, 'a list of numbers');
    const numbers = new Int32Array(GROUPS_AT_ONCE * groupOf);
    let filled = 0;
    for (;;) {
      filled = this.#plainNumbers(numbers, filled);
      if (filled < numbers.length) {
        const one = this.#number();
        if (one === null) break;
        numbers[filled++] = one;
      }
      if (filled < numbers.length) continue;
      take(numbers, GROUPS_AT_ONCE);
      filled = 0;
    }
    take(numbers, Math.floor(filled / groupOf));
    return filled % groupOf;
  }

  /**
   * Reads on as long as it is the usual: integers of up to nine digits (they stay within the machine's small numbers), each followed
   * by a comma, far from the window's end. @returns how many numbers there are then.
   */
  #plainNumbers(numbers: Int32Array, from: number): number {
    const cursor = this.#cursor;
    const ready = cursor.some();
    const { bytes } = cursor;
    const safe = cursor.at + ready - SAFE_BYTES;
    let { at } = cursor;
    let filled = from;
    while (at < safe && filled < numbers.length) {
      let value = bytes[at] - 48;
      if (value < 0 || value > 9) break;
      let byte = bytes[at + 1];
      // Half of all numbers are of one digit.
      if (byte === COMMA) {
        numbers[filled++] = value;
        at += 2;
        continue;
      }
      let next = at + 1;
      while (byte >= 48 && byte <= 57) {
        value = (Math.imul(value, 10) + byte - 48) | 0;
        byte = bytes[++next];
      }
      if (next - at > 9) break;
      if (byte === LINE) byte = bytes[++next];
      if (byte !== COMMA) break;
      numbers[filled++] = value;
      at = next + 1;
    }
    cursor.at = at;
    return filled;
  }

  /** The next number, byte by byte; null at the end of the list, which is taken. */
  #number(): number | null {
    const cursor = this.#cursor;
    let byte = this.#blank();
    if (byte === CLOSE_LIST) {
      cursor.at++;
      return null;
    }
    const negative = byte === MINUS;
    if (negative) cursor.at++;
    let value = 0;
    let digits = 0;
    for (;;) {
      cursor.ensure(1);
      byte = cursor.bytes[cursor.at];
      if (byte < 48 || byte > 57) break;
      value = value * 10 + byte - 48;
      digits++;
      cursor.at++;
    }
    if (digits > 0 && (byte === 46 || byte === 101 || byte === 69))
      throw new EvidenceError(
        'not-whole',
        `Expected integers, but found “${String.fromCharCode(byte)}” at byte ${cursor.position}.`,
        cursor.position
      );
    if (digits === 0 || (byte > 32 && byte !== COMMA && byte !== CLOSE_LIST))
      throw new EvidenceError(
        'not-json',
        `Expected a number at byte ${cursor.position}, but found “${String.fromCharCode(byte)}”.`,
        cursor.position
      );
    // The comma is taken too: what follows it may be the usual again.
    if (this.#blank() === COMMA) cursor.at++;
    return negative ? -value : value;
  }

  /** Where each text of a list begins. */
  strings(): Float64Array {
    this.expect(OPEN_LIST, 'a list of strings');
    const cursor = this.#cursor;
    const found = new GrowableArray(Float64Array);
    let inString = false;
    let escaped = false;
    for (;;) {
      const ready = cursor.some();
      const { bytes } = cursor;
      const end = cursor.at + ready;
      const base = cursor.position - cursor.at;
      // No more texts can begin than every other byte.
      const positions = found.reserve((ready + 1) >> 1);
      let { length } = found;
      let { at } = cursor;
      for (; at < end; at++) {
        const byte = bytes[at];
        if (inString) {
          if (escaped) escaped = false;
          else if (byte === BACKSLASH) escaped = true;
          else if (byte === QUOTE) inString = false;
        } else if (byte === QUOTE) {
          inString = true;
          positions[length++] = base + at;
        } else if (byte === CLOSE_LIST) break;
      }
      found.length = length;
      if (at < end) {
        cursor.at = at + 1;
        return found.take();
      }
      cursor.at = end;
    }
  }
}
