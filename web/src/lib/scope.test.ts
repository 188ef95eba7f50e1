import { describe, expect, it } from 'vitest';
import { railWindow, scopeFrom, scopeQuery, scopeWindow } from './scope';

const from = (text: string) => scopeFrom(new URLSearchParams(text));
const NOW = 1_700_000_000_000;

describe('scope', () => {
  it('goes through the URL and back', () => {
    const query =
      'service=berths&endpoint=POST+%2Fcalls%2F%3Aid&host=quay-2&release=7.3&last=1h&from=10&to=20&slower=500';
    expect(scopeQuery(from(query))).toBe(query);
    expect(scopeQuery(from(''))).toBe('');
  });

  it('takes what it cannot read as not said', () => {
    expect(from('last=forever&from=x&to=5&slower=-1')).toMatchObject({
      last: '30m',
      from: undefined,
      to: undefined,
      slower: undefined
    });
    expect(from('from=20&to=10')).toMatchObject({ from: undefined, to: undefined });
    expect(from(`service=${'x'.repeat(9999)}`)).toMatchObject({ service: '' });
  });

  it('ends at the present unless a part of the rail is selected', () => {
    const minute = (ms: number): number => Math.floor(ms / 60_000) * 60e6;
    expect(scopeWindow(from('last=15m'), NOW)).toEqual({ fromUs: minute(NOW - 900_000), toUs: NOW * 1000 });
    expect(scopeWindow(from(`from=${NOW - 5000}&to=${NOW}`), NOW)).toEqual({
      fromUs: minute(NOW - 5000),
      toUs: NOW * 1000
    });
  });

  it('is whole minutes, of what is older than a week whole hours', () => {
    const at = (days: number, ms: number): number => NOW - days * 86_400_000 + ms;
    const hours = scopeWindow(from(`from=${at(20, 0)}&to=${at(20, 600_000)}`), NOW);
    expect([hours.fromUs % 3600e6, hours.toUs % 3600e6]).toEqual([0, 0]);
    const minutes = scopeWindow(from(`from=${at(2, 10_000)}&to=${at(2, 70_000)}`), NOW);
    expect([minutes.fromUs % 60e6, minutes.toUs % 60e6]).toEqual([0, 0]);
    expect(minutes.toUs - minutes.fromUs).toBeLessThanOrEqual(120e6);
  });

  it('shows a selection of long ago in the middle of the rail', () => {
    const rail = railWindow(from(`from=${NOW - 9e7}&to=${NOW - 8.94e7}`), NOW);
    expect(rail.fromUs).toBeLessThan((NOW - 9e7) * 1000);
    expect(rail.toUs).toBeGreaterThan((NOW - 8.94e7) * 1000);
  });
});
