import { dateTime, shortTime } from '../kit/time';
import type { ScopeChoice } from '../shell/scope-parts';

interface EarlierDump {
  id: string;
  name: string;
  startedAtUs: number | null;
}

/** Chosen for a dump that is not among those of the process. */
export const ANY_OTHER = 'other';

/** Which earlier dump this one is held against. @param before its id; '' for none. */
export const beforeChoice = (
  earlier: readonly EarlierDump[],
  before: string,
  nowMs: number
): ScopeChoice => ({
  shown: before
    ? shortTime((earlier.find(({ id }) => id === before)?.startedAtUs ?? 0) / 1000, nowMs)
    : 'nothing earlier',
  about: 'Against',
  options: [
    { label: 'nothing earlier', value: 'none' },
    ...earlier.map(({ id, startedAtUs, name }) => ({
      label: dateTime((startedAtUs ?? 0) / 1000),
      detail: name,
      value: id
    })),
    { label: 'another dump …', detail: 'of any time or process', value: ANY_OTHER }
  ],
  value: before || 'none'
});

/** Whether weak references keep what they lead to. */
export const weakChoice = (weak: boolean): ScopeChoice => ({
  shown: weak ? 'weak references too' : 'live objects',
  about: 'What keeps alive',
  options: [
    { label: 'live objects', detail: 'weak references do not keep', value: '' },
    { label: 'weak references too', detail: 'as if they kept', value: '1' }
  ],
  value: weak ? '1' : ''
});
