import { randomUUID } from 'node:crypto';
import { between, stateOf, type LiveEvent } from '$lib/live-state';

/** Who hears that something changed: the open pages. */
type Listener = (event: LiveEvent) => void;
const listeners = new Set<Listener>();

const run = randomUUID();
const published: Record<LiveEvent, number> = {
  booked: 0,
  evidence: 0,
  profiles: 0,
  recordings: 0,
  runs: 0,
  cases: 0,
  watches: 0,
  boards: 0
};

/** Names what a page knows that is loaded now: it changes with every event, and with a new run of the server. */
export const liveState = (): string => stateOf(run, published);

/** What happened since a page knew a state; all there is where another run of the server named it, or none. */
export const missedSince = (state: string | null): LiveEvent[] => between(state, liveState());

export function publish(event: LiveEvent): void {
  published[event]++;
  for (const listener of listeners) listener(event);
}

export function subscribe(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
