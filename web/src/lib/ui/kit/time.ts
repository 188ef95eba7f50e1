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

export const clockTime = (ms: number): string => clock.format(ms);
export const exactTime = (ms: number): string => seconds.format(ms);
export const dateTime = (ms: number): string => full.format(ms);

/** A clock time, with its day where that is not today. */
export function shortTime(ms: number, nowMs = Date.now()): string {
  return new Date(ms).toDateString() === new Date(nowMs).toDateString() ? clockTime(ms) : dateTime(ms);
}
