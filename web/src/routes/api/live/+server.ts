import { liveState, missedSince, subscribe, type LiveEvent } from '$lib/server/live';
import type { RequestHandler } from './$types';

/** At most one event in this time: a page need not be redrawn more often. */
const THROTTLE_MS = 1500;
const HEARTBEAT_MS = 20_000;

/**
 * Server-sent events: something was booked, or evidence came. A page says what it knew when it was loaded (`?since=`), and a browser
 * that comes back says what it heard last: whoever missed something is told at once.
 */
export const GET: RequestHandler = ({ url, request }) => {
  const since = request.headers.get('last-event-id') ?? url.searchParams.get('since');
  let stop = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const encoder = new TextEncoder();
      const send = (text: string): void => controller.enqueue(encoder.encode(text));
      const waiting = new Set<LiveEvent>();
      let timer: NodeJS.Timeout | undefined;
      const flush = (): void => {
        timer = undefined;
        for (const event of waiting) send(`id: ${liveState()}\nevent: ${event}\ndata: {}\n\n`);
        waiting.clear();
      };
      const unsubscribe = subscribe((event) => {
        waiting.add(event);
        timer ??= setTimeout(flush, THROTTLE_MS);
      });
      const heartbeat = setInterval(() => send(': still here\n\n'), HEARTBEAT_MS);
      heartbeat.unref();
      stop = () => {
        unsubscribe();
        clearTimeout(timer);
        clearInterval(heartbeat);
      };
      send(': open\n\n');
      for (const event of missedSince(since)) waiting.add(event);
      flush();
    },
    cancel() {
      stop();
    }
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' }
  });
};
