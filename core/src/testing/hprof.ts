/** Writes HPROF records, for tests: what the format allows, and what it does not. */
export class HprofWriter {
  readonly #bytes: number[] = [];
  readonly #idSize: 4 | 8;
  #heap: number[] = [];

  constructor(idSize: 4 | 8 = 8, version = '1.0.2') {
    this.#idSize = idSize;
    for (const sign of `JAVA PROFILE ${version}`) this.#bytes.push(sign.charCodeAt(0));
    this.#bytes.push(0);
    push(this.#bytes, idSize, 4);
    push(this.#bytes, 0, 4);
    push(this.#bytes, 1_700_000_000, 4);
  }

  #record(tag: number, body: number[]): this {
    this.#bytes.push(tag);
    push(this.#bytes, 0, 4);
    push(this.#bytes, body.length, 4);
    this.#append(body);
    return this;
  }
  #append(body: number[]): void {
    for (const byte of body) this.#bytes.push(byte);
  }
  #id = (value: number): number[] => push([], value, this.#idSize);

  text(id: number, value: string): this {
    return this.#record(0x01, [...this.#id(id), ...new TextEncoder().encode(value)]);
  }
  loadClass(serial: number, id: number, name: number): this {
    return this.#record(0x02, [...push([], serial, 4), ...this.#id(id), 0, 0, 0, 0, ...this.#id(name)]);
  }
  /** Ends a segment of the heap: what was added since goes into it. */
  segment(tag = 0x1c): this {
    const heap = this.#heap;
    this.#heap = [];
    return this.#record(tag, heap);
  }
  root(tag: number, id: number, ...words: number[]): this {
    this.#heap.push(tag, ...this.#id(id), ...words.flatMap((word) => push([], word, 4)));
    return this;
  }
  classDump(
    id: number,
    superId: number,
    fields: [number, number][] = [],
    statics: [number, number, number][] = []
  ): this {
    this.#heap.push(0x20, ...this.#id(id), 0, 0, 0, 0, ...this.#id(superId));
    for (let i = 0; i < 5; i++) this.#heap.push(...this.#id(0));
    push(this.#heap, 16, 4);
    push(this.#heap, 0, 2);
    push(this.#heap, statics.length, 2);
    for (const [name, type, value] of statics)
      this.#heap.push(...this.#id(name), type, ...push([], value, this.#size(type)));
    push(this.#heap, fields.length, 2);
    for (const [name, type] of fields) this.#heap.push(...this.#id(name), type);
    return this;
  }
  #size(type: number): number {
    return type === 2 ? this.#idSize : ({ 4: 1, 5: 2, 6: 4, 7: 8, 8: 1, 9: 2, 10: 4, 11: 8 }[type] ?? 1);
  }
  /** @param values with the type of each. */
  instance(id: number, classId: number, values: [number, number][]): this {
    const body = values.flatMap(([type, value]) => push([], value, this.#size(type)));
    this.#heap.push(
      0x21,
      ...this.#id(id),
      0,
      0,
      0,
      0,
      ...this.#id(classId),
      ...push([], body.length, 4),
      ...body
    );
    return this;
  }
  objects(id: number, classId: number, elements: number[]): this {
    this.#heap.push(0x22, ...this.#id(id), 0, 0, 0, 0, ...push([], elements.length, 4), ...this.#id(classId));
    for (const element of elements) this.#heap.push(...this.#id(element));
    return this;
  }
  primitives(id: number, type: number, values: number[]): this {
    this.#heap.push(0x23, ...this.#id(id), 0, 0, 0, 0, ...push([], values.length, 4), type);
    for (const value of values) push(this.#heap, value, this.#size(type));
    return this;
  }
  raw(...bytes: number[]): this {
    this.#heap.push(...bytes);
    return this;
  }
  bytes(): Uint8Array {
    return Uint8Array.from(this.#bytes);
  }
}

function push(into: number[], value: number, size: number): number[] {
  let left = BigInt.asUintN(size * 8, BigInt(Math.trunc(value)));
  const bytes: number[] = [];
  for (let i = 0; i < size; i++) {
    bytes.unshift(Number(left & 0xffn));
    left >>= 8n;
  }
  into.push(...bytes);
  return into;
}
