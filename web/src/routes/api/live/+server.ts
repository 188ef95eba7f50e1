import { subscribe } from '$lib/server/live';
import type { RequestHandler } from './$types';

/** At most one event in this time: a page need not be redrawn more often. */
const THROTTLE_MS = 1500;
const HEARTBEAT_MS = 20_000;

/** Server-sent events: something was booked, or evidence came. */
export const GET: RequestHandler = () => {
  let stop = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const encoder = new TextEncoder();
      const send = (text: string): void => controller.enqueue(encoder.encode(text));
      const waiting = new Set<string>();
      let timer: NodeJS.Timeout | undefined;
      const flush = (): void => {
        timer = undefined;
        for (const event of waiting) send(`event: ${event}\ndata: {}\n\n`);
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
    },
    cancel() {
      stop();
    }
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' }
  });
};
