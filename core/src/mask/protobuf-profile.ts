import protobuf, { type Reader } from 'protobufjs/light.js';
import { atEnd, BYTES, endOf, readerOf, tag, varint, VARINT } from '../formats/wire';
import { isSecretName } from './names';
import { MASK, maskDoors } from './shapes';
import { maskUrls } from './url';

const SAMPLE = tag(2, BYTES);
const LABEL = tag(3, BYTES);
const TEXT = tag(6, BYTES);

/**
 * A protobuf profile as it is kept: values of URLs, credentials, and values of labels whose name says that they are secret are masked; all else stays byte
 * for byte.
 * @returns the very same bytes where nothing was to be masked. @throws RangeError or Error where they are damaged.
 */
export function maskProtobufProfile(content: Uint8Array): Uint8Array {
  const texts: string[] = [];
  const labels: [key: number, value: number][] = [];
  /** Everything but the texts, in its order; fields of different numbers may come in any order. */
  const rest: Uint8Array[] = [];
  const reader = readerOf(content);
  while (reader.pos < reader.len) {
    const begin = reader.pos;
    const found = reader.uint32();
    if (found === TEXT) {
      texts.push(reader.string());
      continue;
    }
    if (found === SAMPLE) labelsOf(reader, labels);
    else reader.skipType(found & 7);
    rest.push(content.subarray(begin, reader.pos));
  }
  const secret = new Set(labels.filter(([key]) => isSecretName(texts[key] ?? '')).map(([, value]) => value));
  const masked = texts.map((text, place) =>
    secret.has(place) && text !== '' ? MASK : maskDoors(maskUrls(text))
  );
  if (masked.every((text, place) => text === texts[place])) return content;
  const writer = protobuf.Writer.create();
  for (const text of masked) writer.uint32(TEXT).string(text);
  const written = writer.finish();
  const bytes = new Uint8Array(written.length + rest.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of [written, ...rest]) {
    bytes.set(part, at);
    at += part.length;
  }
  return bytes;
}

/** Adds the labels of the sample at hand: places of their key and of their text. */
function labelsOf(reader: Reader, labels: [key: number, value: number][]): void {
  const end = endOf(reader);
  while (reader.pos < end) {
    const found = reader.uint32();
    if (found !== LABEL) {
      reader.skipType(found & 7);
      continue;
    }
    const stop = endOf(reader);
    let [key, value] = [0, 0];
    while (reader.pos < stop) {
      const part = reader.uint32();
      if (part === tag(1, VARINT)) key = varint(reader);
      else if (part === tag(2, VARINT)) value = varint(reader);
      else reader.skipType(part & 7);
    }
    atEnd(reader, stop);
    labels.push([key, value]);
  }
  atEnd(reader, end);
}
