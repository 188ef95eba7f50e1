import type { ThreadFrame } from './model';

/** The frames of a series, each once; found again by the text of the line that tells it, because dumps repeat themselves. */
export class FrameList {
  readonly frames: ThreadFrame[] = [];
  readonly #byLine = new Map<string, number>();
  readonly #byKey = new Map<string, number>();
  readonly #parse: (line: string) => ThreadFrame;

  /** @param parse what a line not seen before tells. */
  constructor(parse: (line: string) => ThreadFrame) {
    this.#parse = parse;
  }

  ofLine(line: string): number {
    const known = this.#byLine.get(line);
    if (known !== undefined) return known;
    const index = this.of(this.#parse(line));
    this.#byLine.set(line, index);
    return index;
  }

  of(frame: ThreadFrame): number {
    const key = `${frame.name}\n${frame.file}\n${frame.line}\n${frame.column}`;
    const known = this.#byKey.get(key);
    if (known !== undefined) return known;
    this.#byKey.set(key, this.frames.length);
    this.frames.push(frame);
    return this.frames.length - 1;
  }
}
