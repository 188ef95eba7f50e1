/** Times of day in the reader's own zone: the one place they are written. */
const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });
const seconds = new Intl.DateTimeFormat('en-GB', {
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
  fractionalSecondDigits: 3
});
const withSeconds = new Intl.DateTimeFormat('en-GB', {
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit'
});
const full = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit'
});

const fullWithYear = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit'
});

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' });

export const clockTime = (ms: number): string => clock.format(ms);
export const exactTime = (ms: number): string => seconds.format(ms);
/** A day and a clock time, with its year where that is not the present one. */
export const dateTime = (ms: number, nowMs = Date.now()): string =>
  (new Date(ms).getFullYear() === new Date(nowMs).getFullYear() ? full : fullWithYear).format(ms);

const sameDay = (a: number, b: number): boolean => new Date(a).toDateString() === new Date(b).toDateString();

/** A clock time, with its day where that is not today. */
export const shortTime = (ms: number, nowMs = Date.now()): string =>
  sameDay(ms, nowMs) ? clockTime(ms) : dateTime(ms, nowMs);

/** Two times, with their days where they are not both today; one day is reported once. */
export function timeRange(fromMs: number, toMs: number, nowMs = Date.now()): string {
  if (sameDay(fromMs, toMs)) return `${shortTime(fromMs, nowMs)} to ${clockTime(toMs)}`;
  return `${dateTime(fromMs, nowMs)} to ${dateTime(toMs, nowMs)}`;
}

const DAY_MS = 86_400_000;

/** A mark of an axis: days where it is longer than two of them; else clock times, and the day where one begins. */
export function axisTime(ms: number, lengthMs: number): string {
  const at = new Date(ms);
  const midnight = at.getHours() === 0 && at.getMinutes() === 0;
  if (lengthMs > 2 * DAY_MS || midnight) return day.format(ms);
  // Of a few minutes an axis has marks between them: without seconds two would read alike.
  return at.getSeconds() === 0 ? clockTime(ms) : withSeconds.format(ms);
}

const long = new Intl.DateTimeFormat('en-GB', {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  year: 'numeric'
});

/** The day of a moment, in the reader's own zone. */
export const dayOf = (ms: number): string => long.format(ms);

const two = (part: number): string => String(part).padStart(2, '0');

/** A moment as a date and time field takes it, in the reader's own zone, to the second. */
export function fieldTime(ms: number): string {
  const at = new Date(ms);
  const date = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
  return `${date}T${two(at.getHours())}:${two(at.getMinutes())}:${two(at.getSeconds())}`;
}

/** What was typed into such a field, epoch milliseconds; NaN for no time. */
export const timeFromField = (text: string): number => new Date(text).getTime();
