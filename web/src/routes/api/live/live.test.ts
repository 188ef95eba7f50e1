import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { LIVE_EVENTS } from '$lib/live-state';
import { liveState, publish } from '$lib/server/live';
import { GET } from './+server';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

type Event = Parameters<typeof GET>[0];

/** A page listens. @returns what it was told so far, and how it goes away. */
async function listen(
  since: string | null,
  lastHeard?: string
): Promise<{ told: string[]; leave: () => Promise<void> }> {
  const url = new URL('http://tromix/api/live');
  if (since !== null) url.searchParams.set('since', since);
  const headers: HeadersInit = lastHeard ? { 'last-event-id': lastHeard } : {};
  const response = await GET({ url, request: new Request(url, { headers }) } as Event);
  const reader = response.body!.getReader();
  const told: string[] = [];
  const decoder = new TextDecoder();
  void (async () => {
    for (let part = await reader.read(); !part.done; part = await reader.read())
      told.push(decoder.decode(part.value));
  })();
  await vi.advanceTimersByTimeAsync(0);
  return { told, leave: () => reader.cancel() };
}
const eventsIn = (told: readonly string[]): string[] =>
  told.flatMap((text) => [...text.matchAll(/^event: (\w+)$/gm)].map(([, name]) => name));

it('tells a page that knows all nothing, until something happens', async () => {
  const { told, leave } = await listen(liveState());
  expect(told).toEqual([': open\n\n']);
  publish('booked');
  publish('booked');
  publish('evidence');
  await vi.advanceTimersByTimeAsync(1000);
  expect(eventsIn(told)).toEqual([]);
  await vi.advanceTimersByTimeAsync(1000);
  expect(eventsIn(told)).toEqual(['booked', 'evidence']);
  expect(told.at(-1)).toContain(`id: ${liveState()}\n`);
  await leave();
});

it('tells a page at once what it may have missed between its loading and its listening', async () => {
  const loaded = liveState();
  publish('booked');
  publish('evidence');
  publish('recordings');
  const { told, leave } = await listen(loaded);
  expect(eventsIn(told)).toEqual(['booked', 'evidence', 'recordings']);
  await leave();
});

it('tells it of nothing else than what it missed', async () => {
  const loaded = liveState();
  publish('evidence');
  const { told, leave } = await listen(loaded);
  expect(eventsIn(told)).toEqual(['evidence']);
  await leave();
});

it('goes by what was heard last when a broken line stands again, and by nothing another run of the server said', async () => {
  const loaded = liveState();
  publish('recordings');
  const knows = await listen(loaded, liveState());
  expect(eventsIn(knows.told)).toEqual([]);
  const other = await listen(null, 'another-run-3');
  expect(eventsIn(other.told)).toEqual([...LIVE_EVENTS]);
  await knows.leave();
  await other.leave();
});

it('shows that the line stands while nothing happens, and stops when the page goes away', async () => {
  const { told, leave } = await listen(liveState());
  await vi.advanceTimersByTimeAsync(45_000);
  expect(told.filter((text) => text.startsWith(': still here'))).toHaveLength(2);
  await leave();
  expect(vi.getTimerCount()).toBe(0);
  publish('booked');
  expect(vi.getTimerCount()).toBe(0);
});
