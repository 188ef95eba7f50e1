import { describe, expect, it } from 'vitest';
import { metricText } from './unit-words';

const plain = (text: string): string => text.replace(/[\u00a0\u202f\u2009]/g, ' ');
const said = (unit: string, isRate: boolean, value: number): string => plain(metricText(unit, isRate)(value));

describe('a value of a metric', () => {
  it('is written by its unit', () => {
    expect(said('By', false, 1_500_000)).toBe('1.5 MB');
    expect(said('s', false, 0.0123)).toBe('12.3 ms');
    expect(said('ms', false, 250)).toBe('250 ms');
    expect(said('{request}', false, 12)).toBe('12 requests');
    expect(said('1', false, 0.123456)).toBe('0.123');
    expect(said('', false, 7)).toBe('7');
    expect(said('Cel', false, 21.5)).toBe('21.5 Cel');
  });

  it('is an amount a second where it only grows, of time a share of it', () => {
    expect(said('By', true, 2000)).toBe('2 kB/s');
    expect(said('s', true, 0.25)).toBe('25 %');
    expect(said('s', true, 1.5)).toBe('1.5 s/s');
    expect(said('{operation}', true, 3.25)).toBe('3.25 operations/s');
  });
});
