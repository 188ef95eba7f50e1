import { wellFormed } from '../text/well-formed';
import { whoseV8 } from '../whose/v8';
import { NATIVE, type Whose } from '../whose/whose';
import type { Frame } from './model';

/** `Runtime.CallFrame` of the Chrome DevTools Protocol; lines and columns count from 0. */
export interface V8CallFrame {
  functionName: string;
  url: string;
  lineNumber: number;
  columnNumber: number;
}

/** The code of a file outside of its functions. */
export const TOP_LEVEL = '(top level)';

/** Frames by what makes them equal: function, file, line and column, found by numbers because a profile names them so often. */
export class FrameTable {
  readonly frames: Frame[] = [];
  readonly #names = new Map<string, number>();
  readonly #files = new Map<string, number>();
  readonly #byNames = new Map<number, Map<number, number>>();
  /** Whose code it is depends on the file alone; where there is none, on the name and on whether it has a line. */
  readonly #kinds = new Map<string, Whose>();

  /** The frame that stands for everything. */
  root(): number {
    return this.indexOf('(root)', '', 0, 0, { kind: 'root', package: '' });
  }

  /** A place in the code of which only the address is known. @param address 64 bits; below zero where they were read with a sign */
  atAddress(address: number, file: string, known: Whose = NATIVE): number {
    const unsigned = address < 0 ? address + 2 ** 64 : address;
    return this.indexOf(address === 0 ? '(unknown)' : `0x${unsigned.toString(16)}`, file, 0, 0, known);
  }

  ofCall(call: V8CallFrame): number {
    const file = typeof call.url === 'string' ? call.url : '';
    // V8 counts lines and columns from 0, −1 where there are none.
    const line = Number.isInteger(call.lineNumber) ? call.lineNumber + 1 : 0;
    const column = Number.isInteger(call.columnNumber) ? call.columnNumber + 1 : 0;
    const given = typeof call.functionName === 'string' ? call.functionName : '';
    // What stands outside of all functions runs as one without a name, from the first sign of the file on.
    const nameless = file !== '' && line === 1 && column === 1 ? TOP_LEVEL : '(anonymous)';
    return this.indexOf(given || nameless, file, line, column);
  }

  /** @param line, column 1-based, 0 where unknown. @param known whose code it is, where that is known already. */
  indexOf(name: string, file: string, line: number, column: number, known?: Whose): number {
    const names = number(this.#names, name) * 2 ** 26 + number(this.#files, file);
    let places = this.#byNames.get(names);
    if (!places) this.#byNames.set(names, (places = new Map()));
    const place = line * 2 ** 22 + column;
    const found = places.get(place);
    if (found !== undefined) return found;
    this.frames.push({
      name: wellFormed(name),
      file: wellFormed(file),
      line,
      column,
      ...(known ?? this.#kindOf(name, file, line))
    });
    places.set(place, this.frames.length - 1);
    return this.frames.length - 1;
  }

  #kindOf(name: string, file: string, line: number): Whose {
    const key = file === '' ? `${line > 0 ? ':' : ' '}${name}` : file;
    let kind = this.#kinds.get(key);
    if (!kind) this.#kinds.set(key, (kind = whoseV8(name, file, line)));
    return kind;
  }
}

function number(numbers: Map<string, number>, text: string): number {
  const known = numbers.get(text);
  if (known !== undefined) return known;
  numbers.set(text, numbers.size);
  return numbers.size - 1;
}
