import type { LiveEvent } from '$lib/live-state';
import { liveState, missedSince, subscribe } from '$lib/server/live';
import { settings } from '$lib/server/settings';
import type { RequestHandler } from './$types';

/** At most one event in this time: a page need not be redrawn more often. */
const THROTTLE_MS = 1500;
const HEARTBEAT_MS = 20_000;
/** Lines that are open. */
let open = 0;

/**
 * Server-sent events: something was booked, or evidence came. A page says what it knew when it was loaded (`?since=`), and a browser
 * that comes back says what it heard last: whoever missed something learns it at once.
 */
export const GET: RequestHandler = ({ url, request }) => {
  const { maxPages } = settings();
  if (open >= maxPages)
    return new Response(
      `${maxPages} browsers receive live updates already. This page still works; reload it to see what is new. The limit is the setting TROMIX_MAX_PAGES.`,
      { status: 503, headers: { 'retry-after': '60' } }
    );
  const since = request.headers.get('last-event-id') ?? url.searchParams.get('since');
  let stop = (): void => undefined;
  open++;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const encoder = new TextEncoder();
      const waiting = new Set<LiveEvent>();
      let timer: NodeJS.Timeout | undefined;
      let ended = false;
      stop = () => {
        if (ended) return;
        ended = true;
        open--;
        unsubscribe();
        clearTimeout(timer);
        clearInterval(heartbeat);
      };
      const send = (text: string): void => {
        // Somebody who takes nothing more is gone, or holds the line for nothing.
        if (ended || (controller.desiredSize ?? 0) < -MAX_WAITING) return stop();
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          stop();
        }
      };
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
      send(': open\n\n');
      for (const event of missedSince(since)) waiting.add(event);
      flush();
    },
    cancel() {
      stop();
    }
  });
  request.signal.addEventListener('abort', () => stop());
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' }
  });
};

/** Messages that may wait for a reader. */
const MAX_WAITING = 100;
