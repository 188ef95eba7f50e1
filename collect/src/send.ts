import type { Config } from './config';

/** Browsers take no more than 64 KiB on their way out, of all beacons together. */
export const BEACON_BYTES = 60_000;
/** Of what is sent while the page is open. */
export const SENT_BYTES = 500_000;

const address = ({ to, key }: Config, path: string): string =>
  `${to}${path}${key ? `?key=${encodeURIComponent(key)}` : ''}`;

/** Plain text: for anything else a browser would ask the server beforehand. */
const plain = (text: string): Blob => new Blob([text], { type: 'text/plain' });

/** Sends as the page is left: the browser does so by itself. */
export function sendLeaving(config: Config, text: string): void {
  if (config.tell) config.tell('collect', text);
  else navigator.sendBeacon(address(config, 'collect'), plain(text));
}

/** Sends while the page is open. @returns whether it was taken */
export async function sendNow(config: Config, path: string, text: string): Promise<boolean> {
  if (config.tell) {
    config.tell(path, text);
    return true;
  }
  try {
    const { ok } = await fetch(address(config, path), {
      method: 'POST',
      body: plain(text),
      credentials: 'omit',
      priority: 'low'
    } as RequestInit);
    return ok;
  } catch {
    return false;
  }
}
