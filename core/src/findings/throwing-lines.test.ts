import { describe, expect, it } from 'vitest';
import { makesException } from './throwing-lines';

describe('a line that makes an exception', () => {
  it.each([
    "throw new Error('odd');",
    'if (depth < 0) throw failure;',
    '} else { throw error; }',
    'return Promise.reject(new StampError(text));',
    'const e = new TypeError();',
    'case 3: throw e'
  ])('%s', (text) => expect(makesException(text)).toBe(true));

  it.each([
    '// throw new Error()',
    'total += 1; // we throw later',
    'generator.throw(cause);',
    'rethrow(cause);',
    'const throwAway = 3;',
    '{ throw: true }',
    'throwIfAborted()',
    ''
  ])('is not: %s', (text) => expect(makesException(text)).toBe(false));
});
