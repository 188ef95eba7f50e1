import type { LiveNews, LiveQuestion } from '$lib/workers/live.shared';

/**
 * Tells a page what changes on the server, over one line that all tabs of the browser share. While the page is hidden it receives nothing; when it
 * comes into sight again it hears what it missed.
 * @param seen what the page knew when it was loaded.
 * @param tell called with the name of what happened. @returns ends it.
 */
export function listen(seen: string, tell: (event: string) => void): () => void {
  const worker = new SharedWorker(new URL('../../workers/live.shared.ts', import.meta.url), {
    type: 'module',
    name: 'live'
  });
  const { port } = worker;
  let state = seen;
  const say = (question: LiveQuestion): void => port.postMessage(question);
  const look = (): void => say(document.hidden ? { hidden: true } : { seen: state });
  port.onmessage = ({ data }: MessageEvent<LiveNews>) => {
    ({ state } = data);
    tell(data.event);
  };
  port.start();
  look();
  document.addEventListener('visibilitychange', look);
  const leave = (): void => say({ hidden: true });
  // A page may be kept for going back: it is informed anew then.
  addEventListener('pagehide', leave);
  addEventListener('pageshow', look);
  return () => {
    leave();
    document.removeEventListener('visibilitychange', look);
    removeEventListener('pagehide', leave);
    removeEventListener('pageshow', look);
    port.close();
  };
}
