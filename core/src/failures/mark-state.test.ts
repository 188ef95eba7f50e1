import { expect, it } from 'vitest';
import { failureState, type FailureMark } from './mark-state';

const fixed = (release: string): FailureMark => ({
  kind: 'fixed',
  release,
  moreTimes: 0,
  timesThen: 10,
  atUs: 100
});
const ignored = (moreTimes: number): FailureMark => ({
  kind: 'ignored',
  release: '',
  moreTimes,
  timesThen: 10,
  atUs: 100
});
const old = { release: '7.2', firstUs: 10, lastUs: 150 };
const later = { release: '7.4', firstUs: 130, lastUs: 160 };

it('is open until somebody decides', () => expect(failureState(null, 5, [old], null).state).toBe('open'));
it('stays fixed while only older releases show it', () => {
  expect(failureState(fixed('7.3'), 12, [old], 90).state).toBe('fixed');
  expect(failureState(fixed(''), 12, [old], null).state).toBe('fixed');
});
it('is back since the release that shows it again: the fixing one, or a later one', () => {
  expect(failureState(fixed('7.3'), 12, [old, later], 90)).toEqual({ state: 'back', since: '7.4' });
  expect(failureState(fixed('7.3'), 12, [{ release: '7.3', firstUs: 90, lastUs: 140 }, later], 90)).toEqual({
    state: 'back',
    since: '7.3'
  });
  expect(failureState(fixed(''), 12, [old, later], null)).toEqual({ state: 'back', since: '7.4' });
});
it('is not back by what had happened before it was marked', () =>
  expect(failureState(fixed('7.3'), 12, [{ release: '7.3', firstUs: 90, lastUs: 99 }], 90).state).toBe(
    'fixed'
  ));
it('is ignored until it happened so often again, or in a new release', () => {
  expect(failureState(ignored(5), 14, [old], null).state).toBe('ignored');
  expect(failureState(ignored(5), 15, [old], null)).toEqual({ state: 'back', since: '5 more times' });
  expect(failureState(ignored(0), 999, [old], null).state).toBe('ignored');
  expect(failureState(ignored(0), 12, [old, later], null)).toEqual({ state: 'back', since: '7.4' });
});
