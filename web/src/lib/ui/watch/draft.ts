import type { Condition } from '@tromix/core/watch/condition';
import { figureOf, type Side } from '@tromix/core/watch/figures';
import type { Watch, WatchRecording } from '@tromix/core/watch/watch';
import { CALL_FIGURES, REQUEST_FIGURES, type Watched } from '@tromix/core/watch/watched';

/** A watch as the form holds it: numbers in the units they are typed in. */
export interface WatchDraft {
  name: string;
  watched: Watched;
  by: 'number' | 'day' | 'week' | 'release';
  side: Side;
  on: number;
  off: number;
  /** Percent. */
  worseOn: number;
  worseOff: number;
  over: Condition['over'];
  for: number;
  severity: Watch['severity'];
  owner: string;
  tellsNoData: boolean;
  opensCase: boolean;
  record: 'nothing' | WatchRecording['kind'];
  seconds: number;
  address: string;
  /** Recordings beyond the one that the form shows: they stay as they are. */
  alsoRecorded: WatchRecording[];
  silentAfter: number;
}

export const draftOf = (watched: Watched): WatchDraft => ({
  name: '',
  watched,
  by: 'number',
  side: figureOf(watched).worse,
  on: NaN,
  off: NaN,
  worseOn: 20,
  worseOff: 10,
  over: 5,
  for: 3,
  severity: 'warning',
  owner: '',
  tellsNoData: false,
  opensCase: true,
  record: 'nothing',
  seconds: 30,
  address: '',
  alsoRecorded: [],
  silentAfter: 15
});

/** A watch that is there, in the form. */
export function draftFrom({ name, condition, severity, owner, tellsNoData, actions }: Watch): WatchDraft {
  const { watched, limit, over, silentAfter } = condition;
  const { factor } = figureOf(watched).typed;
  const [first, ...alsoRecorded] = actions.record;
  return {
    ...draftOf(watched),
    name,
    ...(limit.by === 'number'
      ? { by: 'number', side: limit.side, on: rounded(limit.on / factor), off: rounded(limit.off / factor) }
      : { by: limit.against, worseOn: rounded(limit.on * 100), worseOff: rounded(limit.off * 100) }),
    over,
    for: condition.for,
    severity,
    owner,
    tellsNoData,
    opensCase: actions.case,
    record: first?.kind ?? 'nothing',
    seconds: first?.seconds ?? 30,
    address: first?.address ?? '',
    alsoRecorded,
    silentAfter
  };
}

const rounded = (value: number): number => Number(value.toPrecision(9));

/** The condition of the form; null while it is not whole. */
export function conditionFrom(draft: WatchDraft): Condition | null {
  const { watched, by, side, over, silentAfter } = draft;
  const { factor } = figureOf(watched).typed;
  const isWhole = by === 'number' ? Number.isFinite(draft.on) && Number.isFinite(draft.off) : true;
  if (!isWhole || !(draft.for >= 1)) return null;
  const limit: Condition['limit'] =
    by === 'number'
      ? { by, side, on: rounded(draft.on * factor), off: rounded(draft.off * factor) }
      : { by: 'before', against: by, on: draft.worseOn / 100, off: draft.worseOff / 100 };
  return { watched, limit, over, for: draft.for, silentAfter };
}

export function watchFrom(draft: WatchDraft): Watch | null {
  const condition = conditionFrom(draft);
  if (!condition) return null;
  const { name, severity, owner, tellsNoData, opensCase, record, seconds, address } = draft;
  const order: WatchRecording[] = record === 'nothing' ? [] : [{ kind: record, seconds, address }];
  return {
    name,
    condition,
    severity,
    owner,
    tellsNoData,
    actions: { case: opensCase, record: [...order, ...draft.alsoRecorded] }
  };
}

/** Whether the release before can be what a figure is held against. */
export const hasReleases = (watched: Watched): boolean =>
  'place' in watched &&
  watched.of !== 'counter' &&
  watched.place.service !== '' &&
  watched.place.release === '';

/** The figures that may be chosen in the place of one. */
export function figuresLike(watched: Watched): Watched[] {
  if (watched.of === 'requests') return REQUEST_FIGURES.map((figure) => ({ ...watched, figure }));
  if (watched.of === 'calls')
    return CALL_FIGURES.filter((figure) => figure !== 'per-request' || watched.fingerprint !== '').map(
      (figure) => ({ ...watched, figure })
    );
  if (watched.of === 'failures')
    return (['new', 'rate'] as const)
      .filter((figure) => figure === 'rate' || watched.failure === '')
      .map((figure) => ({ ...watched, figure }));
  return [watched];
}

/** Of what went on so far, this share lies within the limit that is proposed. */
const USUAL = 0.99;
/** Above what is usual there is room, and the limit for off lies nearer. */
const ROOM = 1.25;
const OFF = 0.85;

/** Limits that what went on so far hardly crosses, in the units they are typed in; null where too little is known of it. */
export function proposedLimits(
  watched: Watched,
  side: Side,
  values: readonly (number | null)[]
): { on: number; off: number } | null {
  const known = values.filter((value) => value !== null).sort((a, b) => a - b);
  const { factor } = figureOf(watched).typed;
  if (watched.of === 'crashes' || (watched.of === 'failures' && watched.figure === 'new'))
    return { on: 0, off: 0 };
  if (known.length < 5) return null;
  const at = side === 'above' ? USUAL : 1 - USUAL;
  const usual = known[Math.min(known.length - 1, Math.round(at * (known.length - 1)))] / factor;
  if (watched.of === 'requests' && watched.figure === 'apdex')
    // Below Good is what the specification calls Fair.
    return { on: Math.min(0.85, twoDigits(usual - 0.05)), off: 0.94 };
  const room = side === 'above' ? ROOM : 1 / ROOM;
  const on = twoDigits(usual * room);
  return { on, off: twoDigits(side === 'above' ? on * OFF : on / OFF) };
}

const twoDigits = (value: number): number => Number(value.toPrecision(2));
