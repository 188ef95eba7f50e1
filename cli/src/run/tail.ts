/** The end of a stream, as text: no more of it is held than is handed over. */
export class Tail {
  readonly #most: number;
  #parts: Buffer[] = [];
  #bytes = 0;

  /** @param most bytes that are kept at least, where so many came */
  constructor(most: number) {
    this.#most = most;
  }

  add(part: Buffer): void {
    this.#parts.push(part);
    this.#bytes += part.length;
    while (this.#bytes - this.#parts[0].length >= this.#most) this.#bytes -= this.#parts.shift()!.length;
  }

  get text(): string {
    return Buffer.concat(this.#parts).subarray(-this.#most).toString('utf8');
  }
}
