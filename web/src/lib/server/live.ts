import { randomUUID } from 'node:crypto';

/** What open pages are told of. */
export const LIVE_EVENTS = ['booked', 'evidence', 'recordings'] as const;
export type LiveEvent = (typeof LIVE_EVENTS)[number];

/** Who hears that something changed: the open pages. */
type Listener = (event: LiveEvent) => void;
const listeners = new Set<Listener>();

const run = randomUUID();
let published = 0;

/** Names what a page knows that is loaded now: it changes with every event, and with a new run of the server. */
export const liveState = (): string => `${run}-${published}`;

export function publish(event: LiveEvent): void {
  published++;
  for (const listener of listeners) listener(event);
}

export function subscribe(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
