import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { readException } from '../core/src/failures/exception-text';
import { identityKey, identityOf, identityOfRead, type MapFrame } from '../core/src/failures/identity';
import { frameMapper } from '../core/src/failures/map-frames';
import { maskStack, maskText } from '../core/src/mask/text';

/** What Node.js 20, Chromium, Firefox, a JVM 17, Python 3.11, Go 1.19, Ruby 3.1 and PHP 8.2 wrote of exceptions: `failures/record.mjs` says how. */
type Row = [runtime: string, label: string, variant: number, type: string, message: string, stack: string];
const { rows, maps } = JSON.parse(
  gunzipSync(readFileSync(path.join(import.meta.dirname, 'failures/stacks.json.gz'))).toString()
) as { rows: Row[]; maps: Record<string, string> };

/** As it is stored: masked at the door. */
const keyOf = ([, , , type, message, stack]: Row, map?: MapFrame): string =>
  identityKey(identityOf({ type, message: maskText(message, 'message'), stack: maskStack(stack) }, map));

/** Precision and recall over pairs of stacks of one runtime, by the labels of the hand that wrote the programs. */
function judged(keys: string[]): { pairs: number; precision: number; recall: number } {
  let [together, right, alike, pairs] = [0, 0, 0, 0];
  for (let a = 0; a < rows.length; a++)
    for (let b = a + 1; b < rows.length; b++) {
      if (rows[a][0] !== rows[b][0]) continue;
      pairs++;
      const [same, one] = [rows[a][1] === rows[b][1], keys[a] === keys[b]];
      if (same) alike++;
      if (one) together++;
      if (same && one) right++;
    }
  return { pairs, precision: right / together, recall: right / alike };
}

describe('grouping of exceptions that real runtimes threw', () => {
  it('puts together what is one and keeps apart what is not', () => {
    const { pairs, precision, recall } = judged(rows.map((row) => keyOf(row)));
    console.log(
      `${rows.length} stacks of ${new Set(rows.map(([runtime]) => runtime)).size} runtimes and builds, ${pairs} pairs: precision ${precision}, recall ${recall}`
    );
    expect(rows.length).toBeGreaterThan(120);
    expect({ precision, recall }).toEqual({ precision: 1, recall: 1 });
  });

  it('is the same whether a stack is read whole or only as far as it tells', () => {
    for (const [, , , type, message, stack] of rows)
      expect(identityOf({ type, message, stack })).toEqual(
        identityOfRead(readException(stack, { type, message }))
      );
  });

  it('is the same for a program that was built or minified, with its map', () => {
    const map = frameMapper((file) => maps[path.basename(file)] ?? null);
    const built = rows.filter(([runtime]) => runtime.startsWith('built'));
    const plain = new Map(
      rows.filter(([runtime]) => runtime === 'chromium').map((row) => [row[1], keyOf(row)])
    );
    expect(built.length).toBeGreaterThan(30);
    for (const row of built)
      expect([row[0], row[1], keyOf(row, map)]).toEqual([row[0], row[1], plain.get(row[1])]);
  });
});
