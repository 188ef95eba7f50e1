/** Writes numbers one after another into bytes that grow as needed. */
export class ByteWriter {
  #bytes = new Uint8Array(256);
  #view = new DataView(this.#bytes.buffer);
  #at = 0;

  /** An integer from 0 to 2^53 − 1, seven bits to a byte, the lowest first (LEB128). */
  count(value: number): void {
    this.#room(8);
    let rest = value;
    while (rest >= 0x80) {
      this.#bytes[this.#at++] = (rest % 0x80) | 0x80;
      rest = Math.floor(rest / 0x80);
    }
    this.#bytes[this.#at++] = rest;
  }

  /** An integer of either sign, magnitude below 2^52: small magnitudes are short (zigzag). */
  signed(value: number): void {
    this.count(value < 0 ? -value * 2 - 1 : value * 2);
  }

  double(value: number): void {
    this.#room(8);
    this.#view.setFloat64(this.#at, value, true);
    this.#at += 8;
  }

  bytes(bytes: Uint8Array): void {
    this.#room(bytes.length);
    this.#bytes.set(bytes, this.#at);
    this.#at += bytes.length;
  }

  /** What was written. */
  take(): Uint8Array {
    return this.#bytes.slice(0, this.#at);
  }

  #room(size: number): void {
    if (this.#at + size <= this.#bytes.length) return;
    const larger = new Uint8Array(Math.max(this.#bytes.length * 2, this.#at + size));
    larger.set(this.#bytes);
    this.#bytes = larger;
    this.#view = new DataView(larger.buffer);
  }
}

/** Reads what a `ByteWriter` wrote. Every method throws RangeError where the bytes end too soon. */
export class ByteReader {
  readonly #bytes: Uint8Array;
  readonly #view: DataView;
  #at = 0;

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes;
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  count(): number {
    let value = 0;
    let scale = 1;
    for (;;) {
      const byte = this.#bytes[this.#at++];
      if (byte === undefined || scale > 2 ** 49) throw new RangeError('The bytes end within a number.');
      value += (byte & 0x7f) * scale;
      if (byte < 0x80) return value;
      scale *= 0x80;
    }
  }

  signed(): number {
    const value = this.count();
    return value % 2 === 0 ? value / 2 : -(value + 1) / 2;
  }

  double(): number {
    const value = this.#view.getFloat64(this.#at, true);
    this.#at += 8;
    return value;
  }

  bytes(length: number): Uint8Array {
    if (this.#at + length > this.#bytes.length) throw new RangeError('The bytes end within a list.');
    return this.#bytes.subarray(this.#at, (this.#at += length));
  }
}
