/** Bytes of the beginning that are looked at; of a text with lines more, since a log may begin with other lines. */
const HEAD = 4096;
const LINES = 256 * 1024;

/** The beginning of a file's content, as recognisers look at it. */
export class FileHead {
  readonly bytes: Uint8Array;
  #text: string | undefined;
  #lines: string | undefined;

  /** @param bytes the inflated content, or at least its first 256 KiB. */
  constructor(bytes: Uint8Array) {
    this.bytes = bytes;
  }

  /** The first characters, without a byte order mark and blanks. */
  get text(): string {
    return (this.#text ??= new TextDecoder()
      .decode(this.bytes.subarray(0, HEAD))
      .replace(/^\uFEFF/, '')
      .trimStart());
  }

  get isObject(): boolean {
    return this.text.startsWith('{');
  }

  /** More of it, to look for lines. */
  get lines(): string {
    return (this.#lines ??= new TextDecoder().decode(this.bytes.subarray(0, LINES)));
  }
}
