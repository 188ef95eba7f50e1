/** Who hears that something changed: the open pages. */
type Listener = (event: string) => void;
const listeners = new Set<Listener>();

export function publish(event: 'booked' | 'evidence' | 'recordings'): void {
  for (const listener of listeners) listener(event);
}

export function subscribe(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
