import { StartError } from '../start-error';

/** A place where an inspector may listen. */
export interface Place {
  host: string;
  port: number;
}

const LOOPBACK = /^(?:127(?:\.\d{1,3}){3}|localhost|::1)$/;
/** More ports than this are not looked at: a range is there to find a handful of processes. */
const MAX_PORTS = 512;

/** Reads `127.0.0.1:9229-9239, 10.0.0.7:9229`. @throws StartError naming what is wrong. */
export function readPlaces(text: string): Place[] {
  const places: Place[] = [];
  for (const item of text.split(',').map((part) => part.trim())) {
    if (item === '') continue;
    const found = /^(\[[0-9a-f:]+\]|[\w.-]+):(\d{1,5})(?:-(\d{1,5}))?$/i.exec(item);
    const from = Number(found?.[2]);
    const to = Number(found?.[3] ?? found?.[2]);
    if (!found || from < 1 || to > 65_535 || to < from)
      throw new StartError(
        `Invalid TROMIX_INSPECT: expected addresses like 127.0.0.1:9229 or 127.0.0.1:9229-9239, but found ${item}.`
      );
    for (let port = from; port <= to; port++) places.push({ host: found[1].replace(/^\[|\]$/g, ''), port });
  }
  if (places.length > MAX_PORTS)
    throw new StartError(
      `Invalid TROMIX_INSPECT: expected no more than ${MAX_PORTS} ports, but found ${places.length}.`
    );
  return places;
}

/** Whether a place is on this very machine. */
export const isLoopback = ({ host }: Place): boolean => LOOPBACK.test(host);

/**
 * An address somebody typed, if recordings may go there: to the ports the setting names, of the loopback or of the machine it names them for.
 * Whoever may record must not be able to ask any port of this machine for what answers there.
 * @returns the place, or why not.
 */
export function allowedPlace(address: string, named: readonly Place[]): Place | { refused: string } {
  const found = /^(?:(?:ws|http):\/\/)?(\[[0-9a-f:]+\]|[\w.-]+):(\d{1,5})(?:\/.*)?$/i.exec(address.trim());
  const port = Number(found?.[2]);
  if (!found || port < 1 || port > 65_535) return { refused: 'Expected an address like 127.0.0.1:9229.' };
  const host = found[1].replace(/^\[|\]$/g, '').toLowerCase();
  const loopback = LOOPBACK.test(host);
  const known = named.some(
    (place) =>
      place.port === port &&
      (place.host.toLowerCase() === host || (loopback && LOOPBACK.test(place.host.toLowerCase())))
  );
  return known
    ? { host, port }
    : {
        refused: `Recordings go only to addresses that were named. Name ${host}:${port} in the setting TROMIX_INSPECT to allow it.`
      };
}

export const addressOf = ({ host, port }: Place): string =>
  `${host.includes(':') ? `[${host}]` : host}:${port}`;
