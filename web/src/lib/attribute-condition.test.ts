import { describe, expect, it } from 'vitest';
import {
  conditionWords,
  readCondition,
  withCondition,
  withValue,
  writeCondition
} from './attribute-condition';

describe('a condition on an attribute', () => {
  it.each([
    ['http.route=/plan', 'http.route is /plan'],
    ['http.route!=/plan', 'http.route is not /plan'],
    ['http.route~=pla', 'http.route contains pla'],
    ['http.route!~=pla', 'http.route does not contain pla'],
    ['http.route^=/p', 'http.route starts with /p'],
    ['http.route!^=/p', 'http.route does not start with /p'],
    ['query=a=b', 'query is a=b'],
    ['query==', 'query is =']
  ])('%s is read, written, and said', (text, words) => {
    expect(writeCondition(readCondition(text)!)).toBe(text);
    expect(conditionWords(text)).toBe(words);
  });

  it('is none without a name or a sign', () => {
    expect(readCondition('=north')).toBeNull();
    expect(readCondition('north')).toBeNull();
  });

  it('replaces what the value was said to be, and stands beside all else', () => {
    expect(withValue(['zone=east', 'zone!=south', 'zoned=1'], 'zone', 'north')).toEqual([
      'zone!=south',
      'zoned=1',
      'zone=north'
    ]);
    const without = { name: 'zone', comparison: '!=', value: 'east' } as const;
    expect(withCondition(['zone!=south', 'zone!=east'], without)).toEqual(['zone!=south', 'zone!=east']);
  });
});
