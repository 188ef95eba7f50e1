import { ByteReader, ByteWriter } from '@tromix/core/counters/bytes';
import { decodeHistograms, encodeHistograms } from '@tromix/core/counters/chunk';
import { readNear, writeNear } from '@tromix/core/counters/columns';
import type { HistogramPoint, NumberPoint } from '@tromix/core/counters/points';
import { groupBy } from '@tromix/core/group-by';
import type { SeriesPoints } from './block';
import { fromHistograms, fromNumbers } from './series-points';

/** Points by the number of their series, as they came. */
export interface NumberedPoints {
  numbers: { id: number; point: NumberPoint }[];
  histograms: { id: number; point: HistogramPoint }[];
}

const VERSION = 1;

/** Points as the bytes of one row: written quickly, and put into blocks soon. */
export function encodeBatch({ numbers, histograms }: NumberedPoints): Uint8Array {
  const writer = new ByteWriter();
  writer.count(VERSION);
  writer.count(numbers.length);
  writeNear(
    writer,
    numbers.map(({ id }) => id)
  );
  for (const time of ['atMs', 'startMs'] as const)
    writeNear(
      writer,
      numbers.map(({ point }) => point[time])
    );
  for (const { point } of numbers) writer.double(point.value);
  writer.count(histograms.length);
  for (const { id, point } of histograms) {
    const bytes = encodeHistograms([point]);
    writer.count(id);
    writer.count(bytes.length);
    writer.bytes(bytes);
  }
  return writer.take();
}

/** @throws RangeError where the bytes are damaged */
function decodeBatch(bytes: Uint8Array, wanted?: ReadonlySet<number>): NumberedPoints {
  const reader = new ByteReader(bytes);
  if (reader.count() !== VERSION) throw new RangeError('Counters of an unknown form are waiting.');
  const length = reader.count();
  const ids = readNear(reader, length);
  const atMs = readNear(reader, length);
  const startMs = readNear(reader, length);
  const found: NumberedPoints = { numbers: [], histograms: [] };
  for (let i = 0; i < length; i++) {
    const value = reader.double();
    if (!wanted || wanted.has(ids[i]))
      found.numbers.push({ id: ids[i], point: { atMs: atMs[i], startMs: startMs[i], value } });
  }
  for (let left = reader.count(); left > 0; left--) {
    const id = reader.count();
    const part = reader.bytes(reader.count());
    if (!wanted || wanted.has(id)) found.histograms.push({ id, point: decodeHistograms(part)[0] });
  }
  return found;
}

/** The points of some batches by the number of their series. @param wanted of which series; of all where it is not given */
export function pointsBySeries(
  batches: readonly Uint8Array[],
  wanted?: ReadonlySet<number>
): Map<number, SeriesPoints> {
  const decoded = batches.map((bytes) => decodeBatch(bytes, wanted));
  const numbers = groupBy(
    decoded.flatMap((batch) => batch.numbers),
    ({ id }) => id
  );
  const histograms = groupBy(
    decoded.flatMap((batch) => batch.histograms),
    ({ id }) => id
  );
  return new Map([
    ...[...numbers].map(([id, of]) => [id, fromNumbers(of.map(({ point }) => point))] as const),
    ...[...histograms].map(([id, of]) => [id, fromHistograms(of.map(({ point }) => point))] as const)
  ]);
}
