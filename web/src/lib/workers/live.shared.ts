/// <reference lib="webworker" />
/**
 * One line to the server for all tabs of a browser: a browser holds only a handful of connections to one server, and a line for each tab
 * would leave none for the pages. Tabs that are hidden are not reported, and without a visible tab the line is closed.
 */

import { between, LIVE_EVENTS } from '$lib/live-state';

/** What a tab says: that it is in sight, and what it knew when it was loaded; or that it is not. */
export type LiveQuestion = { seen: string } | { hidden: true };
/** What a tab receives. */
export interface LiveNews {
  event: string;
  /** What the tab knows when it has heard this. */
  state: string;
}

const AGAIN_MS = 5000;
const scope = self as unknown as SharedWorkerGlobalScope;
/** Tabs in sight. */
const tabs = new Set<MessagePort>();
let line: EventSource | undefined;
/** What the line brought last; at its beginning what was known before it. */
let state = '';

/** Opens the line. The server begins with what was missed since a state. */
function open(since: string): void {
  state = since;
  const opened = new EventSource(`/api/live?since=${encodeURIComponent(since)}`);
  line = opened;
  for (const event of LIVE_EVENTS)
    opened.addEventListener(event, (message: MessageEvent) => {
      state = message.lastEventId;
      for (const port of tabs) port.postMessage({ event, state } satisfies LiveNews);
    });
  opened.onerror = () => {
    // A refusal (too many pages, signed out) ends a line for good: it is tried again as long as somebody looks.
    if (opened.readyState !== EventSource.CLOSED || line !== opened) return;
    setTimeout(() => {
      if (line !== opened) return;
      line = undefined;
      if (tabs.size > 0) open(state);
    }, AGAIN_MS);
  };
}

function hide(port: MessagePort): void {
  tabs.delete(port);
  if (tabs.size > 0) return;
  line?.close();
  line = undefined;
}

scope.onconnect = ({ ports: [port] }) => {
  port.onmessage = ({ data }: MessageEvent<LiveQuestion>) => {
    if ('hidden' in data) return hide(port);
    tabs.add(port);
    if (!line) open(data.seen);
    // What the line brought before this tab came; what it is about to bring comes anyway.
    else for (const event of between(data.seen, state)) port.postMessage({ event, state } satisfies LiveNews);
  };
  port.start();
};
