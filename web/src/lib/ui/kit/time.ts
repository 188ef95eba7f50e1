/** Times of day in the reader's own zone: the one place they are written. */
const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });
const seconds = new Intl.DateTimeFormat('en-GB', {
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
  fractionalSecondDigits: 3
});
const full = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit'
});

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' });

export const clockTime = (ms: number): string => clock.format(ms);
export const exactTime = (ms: number): string => seconds.format(ms);
export const dateTime = (ms: number): string => full.format(ms);

const sameDay = (a: number, b: number): boolean => new Date(a).toDateString() === new Date(b).toDateString();

/** A clock time, with its day where that is not today. */
export const shortTime = (ms: number, nowMs = Date.now()): string =>
  sameDay(ms, nowMs) ? clockTime(ms) : dateTime(ms);

/** Two times, with their days where they are not both today; one day is told once. */
export function timeRange(fromMs: number, toMs: number, nowMs = Date.now()): string {
  if (sameDay(fromMs, toMs)) return `${shortTime(fromMs, nowMs)} to ${clockTime(toMs)}`;
  return `${dateTime(fromMs)} to ${dateTime(toMs)}`;
}

const DAY_MS = 86_400_000;

/** A mark of an axis: days where it is longer than two of them; else clock times, and the day where one begins. */
export function axisTime(ms: number, lengthMs: number): string {
  const at = new Date(ms);
  const midnight = at.getHours() === 0 && at.getMinutes() === 0;
  return lengthMs > 2 * DAY_MS || midnight ? day.format(ms) : clockTime(ms);
}
