import { EvidenceError } from '../formats/evidence-error';
import type { ByteCursor } from './byte-source';

const QUOTE = 34;
const COMMA = 44;
const MINUS = 45;
const OPEN_LIST = 91;
const BACKSLASH = 92;
const CLOSE_LIST = 93;
const OPEN = 123;
const CLOSE = 125;
const LINE = 10;
/** Bytes gone through one by one before the usual is tried again. */
const SLOW_STRETCH = 64;

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
    return JSON.parse(new TextDecoder().decode(Uint8Array.from(bytes))) as string;
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
    try {
      return JSON.parse(new TextDecoder().decode(Uint8Array.from(bytes)));
    } catch {
      throw new EvidenceError(
        'not-json',
        `Expected a JSON value before byte ${cursor.position}, but it does not parse.`,
        cursor.position
      );
    }
  }

  /** Skips a value of any size. @param each told every byte of it. */
  skip(each?: (byte: number) => void): void {
    const cursor = this.#cursor;
    this.#blank();
    let depth = 0;
    let inString = false;
    for (let escaped = false; ;) {
      cursor.ensure(1);
      const byte = cursor.bytes[cursor.at];
      if (!inString && depth === 0 && (byte === COMMA || byte === CLOSE || byte === CLOSE_LIST)) return;
      cursor.at++;
      each?.(byte);
      if (inString) {
        if (byte === QUOTE && !escaped) inString = false;
        escaped = byte === BACKSLASH && !escaped;
      } else if (byte === QUOTE) inString = true;
      else if (byte === OPEN || byte === OPEN_LIST) depth++;
      else if (byte === CLOSE || byte === CLOSE_LIST) depth--;
    }
  }

  /**
   * A list of whole numbers, of which there may be a hundred million, in groups of so many: each group is told once it is whole.
   * @returns numbers left over of a group that is not.
   */
  numbers(groupOf: number, group: (fields: Float64Array) => void): number {
    this.expect(OPEN_LIST, 'a list of numbers');
    const cursor = this.#cursor;
    const fields = new Float64Array(groupOf);
    let field = 0;
    let value = 0;
    let digits = 0;
    let sign = 1;
    for (;;) {
      const ready = cursor.some();
      const { bytes } = cursor;
      const end = cursor.at + ready;
      let at = cursor.at;
      // The usual: whole numbers of up to nine digits, each followed by a comma, far from the window's end.
      if (digits === 0 && sign === 1)
        for (const safe = end - 16; at < safe;) {
          let small = 0;
          let next = at;
          let digit = bytes[next] - 48;
          while (digit >= 0 && digit <= 9 && next - at < 9) {
            small = (Math.imul(small, 10) + digit) | 0;
            digit = bytes[++next] - 48;
          }
          if (next === at) break;
          if (bytes[next] === LINE) next++;
          if (bytes[next] !== COMMA) break;
          at = next + 1;
          fields[field++] = small;
          if (field < groupOf) continue;
          field = 0;
          group(fields);
        }
      const stretch = Math.min(end, at + SLOW_STRETCH);
      while (at < stretch) {
        const byte = bytes[at++];
        const digit = byte - 48;
        if (digit >= 0 && digit <= 9) {
          // Nine digits stay within the machine's small whole numbers, which is most of the speed.
          value = digits < 9 ? (value * 10 + digit) | 0 : value * 10 + digit;
          digits++;
          continue;
        }
        if (digits > 0) {
          if (byte === 46 || byte === 101) {
            cursor.at = at - 1;
            throw new EvidenceError(
              'not-whole',
              `Expected whole numbers, but found “${String.fromCharCode(byte)}” at byte ${cursor.position}.`,
              cursor.position
            );
          }
          fields[field++] = sign < 0 ? -value : value;
          value = 0;
          digits = 0;
          sign = 1;
          if (field === groupOf) {
            field = 0;
            group(fields);
          }
        }
        if (byte === COMMA || byte <= 32) continue;
        if (byte === MINUS) {
          sign = -1;
          continue;
        }
        cursor.at = at;
        if (byte === CLOSE_LIST) return field;
        throw new EvidenceError(
          'not-json',
          `Expected a number at byte ${cursor.position - 1}, but found “${String.fromCharCode(byte)}”.`,
          cursor.position - 1
        );
      }
      cursor.at = at;
    }
  }

  /** A list of strings, each told by where it begins. */
  strings(each: (position: number) => void): void {
    this.expect(OPEN_LIST, 'a list of texts');
    const cursor = this.#cursor;
    let inString = false;
    let escaped = false;
    for (;;) {
      const ready = cursor.some();
      const { bytes } = cursor;
      const end = cursor.at + ready;
      const base = cursor.position - cursor.at;
      for (let at = cursor.at; at < end; at++) {
        const byte = bytes[at];
        if (inString) {
          if (escaped) escaped = false;
          else if (byte === BACKSLASH) escaped = true;
          else if (byte === QUOTE) inString = false;
        } else if (byte === QUOTE) {
          inString = true;
          each(base + at);
        } else if (byte === CLOSE_LIST) {
          cursor.at = at + 1;
          return;
        }
      }
      cursor.at = end;
    }
  }
}
