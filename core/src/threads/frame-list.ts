import type { ThreadFrame } from './model';

/** The frames of a series, each once; found again by the text of the line that tells it, because dumps repeat themselves. */
export class FrameList {
  readonly frames: ThreadFrame[] = [];
  readonly #byLine = new Map<string, number>();
  readonly #byKey = new Map<string, number>();
  readonly #parse: (line: string) => ThreadFrame;
  /** For each frame the line that came after it last, and the frame of that line. */
  readonly #nextLine: string[] = [];
  readonly #next: number[] = [];

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

  /**
   * As `ofLine`, of a line that follows upon a frame: stacks share their calls, so it is held against the line that followed last time,
   * which is faster than looking it up.
   */
  ofLineAfter(before: number, line: string): number {
    if (this.#nextLine[before] === line) return this.#next[before];
    const index = this.ofLine(line);
    this.#nextLine[before] = line;
    this.#next[before] = index;
    return index;
  }

  of(frame: ThreadFrame): number {
    const key = `${frame.name}\n${frame.file}\n${frame.line}\n${frame.column}`;
    const known = this.#byKey.get(key);
    if (known !== undefined) return known;
    this.#byKey.set(key, this.frames.length);
    this.frames.push(frame);
    // No line holds a line break.
    this.#nextLine.push('\n');
    this.#next.push(-1);
    return this.frames.length - 1;
  }
}
