/** What open pages are informed of. */
export const LIVE_EVENTS = [
  'booked',
  'evidence',
  'profiles',
  'recordings',
  'runs',
  'cases',
  'watches',
  'boards'
] as const;
export type LiveEvent = (typeof LIVE_EVENTS)[number];

/** Names what somebody knows: a run of the server, and how often each event had happened in it. */
export const stateOf = (run: string, counts: Readonly<Record<LiveEvent, number>>): string =>
  [run, ...LIVE_EVENTS.map((event) => counts[event])].join('_');

/** What happened between two states; all there is where they are of different runs of the server, or one is none. */
export function between(known: string | null, now: string): LiveEvent[] {
  const [run, ...counts] = known?.split('_') ?? [];
  const [thisRun, ...these] = now.split('_');
  return LIVE_EVENTS.filter((_, i) => run !== thisRun || counts[i] !== these[i]);
}
