import { expect, test } from 'vitest';
import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
import { ledgerPicture, linePicture } from './small-pictures';

const NONE = Object.fromEntries(ACCOUNTS.map((account) => [account, 0])) as Ledger;

test('a ledger is a bar whose parts are as wide as their time', () => {
  const picture = ledgerPicture({ ...NONE, database: 3e6, ownCode: 1e6 });
  const wide = [...picture.matchAll(/ width="([\d.]+)" height="14" fill="(#\w+)"/g)].map(([, width]) =>
    Number(width)
  );
  expect(wide.toSorted((a, b) => a - b)).toEqual([65, 195]);
  expect(picture).not.toMatch(/var\(|none/);
  expect(ledgerPicture(NONE)).toBe('');
});

test('a line is open where there is no value', () => {
  expect(linePicture([1, 2, NaN, 4, 8]).match(/[ML][\d.]+ [\d.]+/g)).toHaveLength(1 + 4);
  expect(linePicture([1, 2, NaN, 4, 8]).match(/M[\d.]+ [\d.]+L/g)).toHaveLength(2);
  expect(linePicture([5])).toBe('');
  expect(linePicture([NaN, NaN])).toBe('');
});
