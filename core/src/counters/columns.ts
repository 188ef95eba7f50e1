import type { ByteReader, ByteWriter } from './bytes';

// Columns of numbers, written so that what a general compressor then makes of them is small: neighbours are alike, so their
// differences are written, and differences of differences where values grow evenly.

/** Largest magnitude of an integer whose second differences still are exact. */
const MAX_EXACT = 2 ** 49;

/** A column of integers, magnitude below 2^49, that mostly grow evenly: times. */
export function writeEven(writer: ByteWriter, values: ArrayLike<number>): void {
  let last = 0;
  let step = 0;
  for (let i = 0; i < values.length; i++) {
    const next = values[i] - last;
    writer.signed(next - step);
    step = i === 0 ? 0 : next;
    last = values[i];
  }
}

export function readEven(reader: ByteReader, length: number): Float64Array {
  const values = new Float64Array(length);
  let last = 0;
  let step = 0;
  for (let i = 0; i < length; i++) {
    const next = reader.signed() + step;
    step = i === 0 ? 0 : next;
    last += next;
    values[i] = last;
  }
  return values;
}

/** A column of integers that stay near each other. */
export function writeNear(writer: ByteWriter, values: ArrayLike<number>): void {
  let last = 0;
  for (let i = 0; i < values.length; i++) {
    writer.signed(values[i] - last);
    last = values[i];
  }
}

export function readNear(reader: ByteReader, length: number): Float64Array {
  const values = new Float64Array(length);
  let last = 0;
  for (let i = 0; i < length; i++) values[i] = last += reader.signed();
  return values;
}

/** How the values of a column are written. */
const SAME = 0;
/** Integers, or decimals with few digits as integers of a smaller unit, as differences. */
const DECIMAL_NEAR = 1;
/** The same, as differences of differences. */
const DECIMAL_EVEN = 2;
/** Any others: what changes in their bits from one to the next, the first bytes of all, then the second of all, and so on. */
const BITS = 3;
/** The same of values rounded to seven digits (IEEE 754 binary32). */
const ROUNDED_BITS = 4;

/** Digits behind the point up to which decimals are sought: nanoseconds of seconds. */
const MAX_DIGITS = 9;

/**
 * A column of any numbers; they are read back bit by bit as they were, NaN and −0 too.
 * @param mayRound values with many digits lose those behind the seventh
 */
export function writeNumbers(writer: ByteWriter, values: Float64Array, mayRound = false): void {
  if (values.every((value) => Object.is(value, values[0]))) {
    writer.count(SAME);
    if (values.length > 0) writer.double(values[0]);
    return;
  }
  const digits = digitsOf(values);
  if (digits === null) {
    writer.count(mayRound ? ROUNDED_BITS : BITS);
    writer.bytes(mayRound ? changedBits(Float32Array.from(values), 1) : changedBits(values, 2));
    return;
  }
  const whole = values.map((value) => Math.round(value * 10 ** digits));
  const isEven = costOfSecond(whole) < costOfFirst(whole);
  writer.count(isEven ? DECIMAL_EVEN : DECIMAL_NEAR);
  writer.count(digits);
  (isEven ? writeEven : writeNear)(writer, whole);
}

/** @throws RangeError where the bytes are damaged */
export function readNumbers(reader: ByteReader, length: number): Float64Array {
  const how = reader.count();
  if (how === SAME) return new Float64Array(length).fill(length > 0 ? reader.double() : 0);
  if (how === BITS) return fromChangedBits(reader.bytes(length * 8), new Float64Array(length), 2);
  if (how === ROUNDED_BITS)
    return Float64Array.from(fromChangedBits(reader.bytes(length * 4), new Float32Array(length), 1));
  if (how !== DECIMAL_NEAR && how !== DECIMAL_EVEN)
    throw new RangeError(`Unknown way of writing numbers: ${how}.`);
  const unit = 10 ** reader.count();
  const whole = (how === DECIMAL_EVEN ? readEven : readNear)(reader, length);
  return unit === 1 ? whole : whole.map((value) => value / unit);
}

/** The fewest digits behind the point with which all values are exact; null where there are more, or magnitudes too large. */
function digitsOf(values: Float64Array): number | null {
  let digits = 0;
  for (const value of values) {
    if (!Number.isFinite(value) || Object.is(value, -0)) return null;
    while (Math.round(value * 10 ** digits) / 10 ** digits !== value) if (++digits > MAX_DIGITS) return null;
    if (Math.abs(value) * 10 ** digits > MAX_EXACT) return null;
  }
  // Digits found late hold for all before, but their integers are larger then.
  return values.some(
    (value) =>
      Math.abs(value) * 10 ** digits > MAX_EXACT || Math.round(value * 10 ** digits) / 10 ** digits !== value
  )
    ? null
    : digits;
}

function costOfFirst(values: Float64Array): number {
  let cost = 0;
  for (let i = 1; i < values.length; i++) cost += Math.log2(1 + Math.abs(values[i] - values[i - 1]));
  return cost;
}

function costOfSecond(values: Float64Array): number {
  let cost = 0;
  for (let i = 2; i < values.length; i++)
    cost += Math.log2(1 + Math.abs(values[i] - 2 * values[i - 1] + values[i - 2]));
  return cost;
}

type Floats = Float32Array | Float64Array;

/** The bits of values as 32-bit words, as this machine lays them out: every machine that runs this is little-endian. */
const wordsOf = (values: Floats): Uint32Array =>
  new Uint32Array(values.buffer, values.byteOffset, values.byteLength / 4);

/** @param width words of one value */
function changedBits(values: Floats, width: number): Uint8Array {
  const words = wordsOf(values);
  const out = new Uint8Array(values.byteLength);
  for (let at = 0; at < words.length; at++) {
    const changed = at < width ? words[at] : words[at] ^ words[at - width];
    const plane = (at % width) * 4;
    for (let byte = 0; byte < 4; byte++)
      out[(plane + byte) * values.length + Math.floor(at / width)] = (changed >>> (byte * 8)) & 0xff;
  }
  return out;
}

function fromChangedBits<Values extends Floats>(bytes: Uint8Array, values: Values, width: number): Values {
  const words = wordsOf(values);
  for (let at = 0; at < words.length; at++) {
    const plane = (at % width) * 4;
    let changed = 0;
    for (let byte = 0; byte < 4; byte++)
      changed |= bytes[(plane + byte) * values.length + Math.floor(at / width)] << (byte * 8);
    words[at] = at < width ? changed : words[at - width] ^ changed;
  }
  return values;
}

/** Bits of a binary32 that a coarse value does without: twelve digits of the mantissa stay, an error of at most one in 8,192. */
const LEFT_OUT = 11;

/** The number of a value in the order of all coarse values: neighbours in value are neighbours in number. */
const coarseNumber = (value: number, bits: DataView): number => {
  bits.setFloat32(0, Math.abs(value));
  const number = (bits.getUint32(0) + (1 << (LEFT_OUT - 1))) >>> LEFT_OUT;
  return value < 0 ? -number : number;
};

/** A column of finite numbers of which four digits are enough, and which stay near each other. */
export function writeCoarse(writer: ByteWriter, values: ArrayLike<number>): void {
  const bits = new DataView(new ArrayBuffer(4));
  writeNear(
    writer,
    Array.from(values, (value) => coarseNumber(value, bits))
  );
}

export function readCoarse(reader: ByteReader, length: number): Float64Array {
  const bits = new DataView(new ArrayBuffer(4));
  return readNear(reader, length).map((number) => {
    bits.setUint32(0, Math.abs(number) << LEFT_OUT);
    return number < 0 ? -bits.getFloat32(0) : bits.getFloat32(0);
  });
}
