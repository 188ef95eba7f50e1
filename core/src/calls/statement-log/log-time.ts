/** Seconds east of UTC of zone names that mean one thing alone (tz database). Others, CST and IST say, are those of several countries. */
const ZONES: Readonly<Record<string, number>> = {
  UTC: 0,
  GMT: 0,
  Z: 0,
  WET: 0,
  WEST: 1,
  CET: 1,
  CEST: 2,
  EET: 2,
  EEST: 3,
  MSK: 3,
  JST: 9,
  KST: 9,
  AEST: 10,
  AEDT: 11,
  NZST: 12,
  NZDT: 13,
  EST: -5,
  EDT: -4,
  MST: -7,
  MDT: -6,
  PST: -8,
  PDT: -7,
  AKST: -9,
  AKDT: -8,
  HST: -10
};

const DATE = /(\d{4}-\d\d-\d\d)[ T](\d\d:\d\d:\d\d)(\.\d+)?(?: ?(Z\b|[+-]\d\d(?::?\d\d)?|[A-Z]{1,5}\b))?/g;
const EPOCH = /(?<![\d.])(\d{10})\.(\d{3})(?!\d)/;

/** A time as a log writes it. */
export interface LogTime {
  /** Epoch microseconds; null where the zone is not known. */
  atUs: number | null;
  /** A zone name that means several things, or none that is known; '' otherwise. */
  unknownZone: string;
}

/** Lines of one second stand together: the last one parsed is remembered. */
let last = { text: '', ms: NaN };
function secondOf(text: string): number {
  if (text !== last.text) last = { text, ms: Date.parse(text) };
  return last.ms;
}

/** The last time that a text names: a date with a time and a zone, or seconds since 1970; null where there is none. */
export function lastTimeIn(text: string): LogTime | null {
  const found = [...text.matchAll(DATE)].at(-1);
  if (!found) {
    const epoch = EPOCH.exec(text);
    return epoch && { atUs: Number(epoch[1]) * 1e6 + Number(epoch[2]) * 1000, unknownZone: '' };
  }
  const [, date, time, fraction = '', zone = ''] = found;
  const hours = /^[A-Z]/.test(zone) ? ZONES[zone] : 0;
  if (zone === '' || hours === undefined) return { atUs: null, unknownZone: zone || '(none)' };
  const offset = /^[+-]/.test(zone) ? zone.replace(/^(...)(\d\d)$/, '$1:$2').padEnd(6, ':00') : 'Z';
  const ms = secondOf(`${date}T${time}${offset}`);
  if (Number.isNaN(ms)) return null;
  const us = Math.round(Number(`0${fraction || '.0'}`) * 1e6);
  return { atUs: ms * 1000 + us - hours * 3_600_000_000, unknownZone: '' };
}
