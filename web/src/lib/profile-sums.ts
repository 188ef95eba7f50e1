import { concat } from '@tromix/core/formats/concat';
import type { Frame } from '@tromix/core/profile/model';
import type { StackDictionary } from '@tromix/core/profile/sums/stack-sums';

/** What sums of recordings are of, and how they travel: records of JSON with bytes behind it, one after another. */

/** The first record. */
export interface SumsHead {
  /** What is weighed here, and what else there is in the scope. */
  valueType: 'cpu' | 'wall';
  valueTypes: string[];
  fromUs: number;
  toUs: number;
  /** How many slices follow. */
  slices: number;
  /** True where the weights are of one endpoint alone. */
  ofEndpoint: boolean;
  releases: { id: number; name: string; firstUs: number }[];
  endpoints: { id: number; name: string; service: string }[];
}

/** The second record: its bytes are three lists of 32-bit integers, one after another: number, parent and frame of each stack. */
export interface SumsFrames {
  frames: Frame[];
}

/** Weights are in the bytes of the record, `bytes` long, in the order in which they are named here. */
export interface SentShare {
  endpoint: number;
  requests: number;
  busyUs: number;
  sharedUs: number;
  bytes: number;
}

/** A slice of a recording; many in one record. Of one endpoint its weights are those of its only share. */
export interface SentSlice {
  process: string;
  startUs: number;
  lengthUs: number;
  spanUs: number;
  samples: number;
  busyUs: number;
  idleUs: number;
  release: number;
  bytes: number;
  shares: SentShare[];
}

const HEAD_BYTES = 8;

/** One record as it is sent: the lengths of both parts as 32-bit integers, low bytes first, and the parts. */
export function recordBytes(json: unknown, parts: readonly Uint8Array[] = []): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json));
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  const lengths = new Uint8Array(HEAD_BYTES);
  const view = new DataView(lengths.buffer);
  view.setUint32(0, text.length, true);
  view.setUint32(4, length, true);
  return concat([lengths, text, ...parts], HEAD_BYTES + text.length + length);
}

export interface SentRecord {
  json: unknown;
  bytes: Uint8Array;
}

/** The records of a stream as they come. @throws Error where it ends within one */
export async function* recordsOf(stream: ReadableStream<Uint8Array>): AsyncGenerator<SentRecord> {
  const reader = stream.getReader();
  let held: Uint8Array = new Uint8Array();
  /** Reads on until so many bytes are held. */
  const hold = async (count: number): Promise<boolean> => {
    const parts = [held];
    let length = held.length;
    while (length < count) {
      const { done, value } = await reader.read();
      if (done) break;
      parts.push(value);
      length += value.length;
    }
    held = concat(parts, length);
    if (length >= count) return true;
    if (length > 0) throw new Error('The answer broke off. Ask again.');
    return false;
  };
  while (await hold(HEAD_BYTES)) {
    const view = new DataView(held.buffer, held.byteOffset);
    const [text, bytes] = [view.getUint32(0, true), view.getUint32(4, true)];
    const end = HEAD_BYTES + text + bytes;
    await hold(end);
    yield {
      json: JSON.parse(new TextDecoder().decode(held.subarray(HEAD_BYTES, HEAD_BYTES + text))),
      bytes: held.slice(HEAD_BYTES + text, end)
    };
    held = held.subarray(end);
  }
}

/** The stacks of the second record. */
export function dictionaryOf({ json, bytes }: SentRecord): StackDictionary {
  const numbers = new Int32Array(bytes.buffer, bytes.byteOffset, bytes.length / 4);
  const stacks = numbers.length / 3;
  return {
    frames: (json as SumsFrames).frames,
    stack: numbers.subarray(0, stacks),
    parent: numbers.subarray(stacks, 2 * stacks),
    frame: numbers.subarray(2 * stacks)
  };
}
