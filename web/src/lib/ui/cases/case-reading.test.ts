import { expect, test } from 'vitest';
import type { Entry, Pin } from '@tromix/core/case/case';
import { plainText } from '@tromix/core/text/words';
import { caseReading, requestOf } from './case-reading';

const entry = (role: Pin['role'], figures: Pin['figures'] = [], address = '/'): Entry => ({
  id: '0'.repeat(16),
  atUs: 1,
  title: '',
  text: '',
  version: 1,
  pin: {
    kind: 'view',
    role,
    sentence: '',
    figures,
    address,
    picture: '',
    code: null,
    verbatim: '',
    traces: [],
    files: []
  }
});
const said = (...entries: Entry[]): string => caseReading({ entries }).map(plainText).join(' ');

test('a case says how far it has come, in the figures of its own pins', () => {
  expect(said()).toBe('No cause is stated yet.');
  const cause = entry('cause', [{ name: 'should take', value: '100 to 300 ms' }]);
  expect(said(cause)).toBe(
    'The cause is stated. Without it the requests it was found in should take 100 to 300 ms.'
  );
  expect(said(cause, entry('proof', [{ name: 'B, median', value: '159 ms' }]))).toBe(
    'The cause is stated, and a comparison after the fix is here. Expected of the requests it was found in: 100 to 300 ms. The comparison measured 159 ms at the median, over its own requests.'
  );
});

test('its slow and its normal request are found by their addresses', () => {
  const path = `${'a'.repeat(32)}/${'b'.repeat(16)}`;
  const entries = [
    entry('normal request', [], '/calls'),
    entry('slow request', [], `/requests/${path}?from=1`)
  ];
  expect(requestOf({ entries }, 'slow request')).toBe(path);
  expect(requestOf({ entries }, 'normal request')).toBe('');
});
