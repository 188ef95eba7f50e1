export const SHOWS = ['holders', 'classes', 'packages', 'objects', 'roots', 'texts', 'growth'] as const;
export type Show = (typeof SHOWS)[number];

/** What is looked at; it all stands in the URL. */
export interface HeapState {
  show: Show;
  /** Evidence of the earlier dump it is held against; '' for none, `none` where that was chosen. */
  against: string;
  /** Weak, soft and phantom references keep alive too. */
  weak: boolean;
  /** Object chosen; −1 for none. */
  object: number;
  /** Classes whose name holds this. */
  name: string;
  /** Texts that hold this. */
  value: string;
  /** Least retained bytes. */
  least: number;
  /** Of which kind of roots. */
  root: string;
  /** Only objects the earlier dump did not have. */
  added: boolean;
}

export function readState(query: URLSearchParams): HeapState {
  const whole = (name: string, otherwise: number): number => {
    const value = Number(query.get(name) ?? NaN);
    return Number.isInteger(value) && value >= 0 ? value : otherwise;
  };
  return {
    show: SHOWS.find((show) => show === query.get('show')) ?? 'holders',
    against: query.get('against') ?? '',
    weak: query.get('weak') === '1',
    object: whole('object', -1),
    name: query.get('class') ?? '',
    value: query.get('value') ?? '',
    least: whole('least', 0),
    root: query.get('root') ?? '',
    added: query.get('added') === '1'
  };
}

export function writeState(query: URLSearchParams, state: HeapState): URLSearchParams {
  const next = new URLSearchParams(query);
  const set = (name: string, value: string): void =>
    value === '' ? next.delete(name) : next.set(name, value);
  set('show', state.show === 'holders' ? '' : state.show);
  set('against', state.against);
  set('weak', state.weak ? '1' : '');
  set('object', state.object >= 0 ? String(state.object) : '');
  set('class', state.name);
  set('value', state.value);
  set('least', state.least > 0 ? String(state.least) : '');
  set('root', state.root);
  set('added', state.added ? '1' : '');
  return next;
}
