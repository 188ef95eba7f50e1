import { setTimeout as pause } from 'node:timers/promises';
import type { WatchRecording } from '@tromix/core/watch/watch';
import { recordingsById, type Recording } from '../queries/recordings';
import { allowedPlace, type Place } from '../record/addresses';
import { recordableProcesses } from '../record/processes';
import { startRecording } from '../record/recorder';
import { settings } from '../settings';

/** Between two samples: microseconds, or bytes allocated. */
const INTERVAL: Record<WatchRecording['kind'], number> = {
  cpu: 1000,
  allocation: 32_768,
  heap: 1000,
  threads: 1000
};
/** A dump of a large heap takes long to write and to take in. */
const SAVED_WITHIN_MS = 15 * 60_000;
const LOOK_MS = 1000;

/** The recording that was made, or why none was. */
export type Recorded = { ok: true; recording: Recording } | { ok: false; message: string };

/** Makes one recording, and waits until it is saved. @param service whose process it is of, where no address is given */
export async function recordFor(order: WatchRecording, service: string, host: string): Promise<Recorded> {
  const place = await placeOf(order.address, service, host);
  if ('refused' in place) return { ok: false, message: place.refused };
  const { kind, seconds } = order;
  const started = await startRecording(place, { kind, seconds, interval: INTERVAL[kind] });
  if (!started.ok) return { ok: false, message: started.message };
  const untilMs = Date.now() + seconds * 1000 + SAVED_WITHIN_MS;
  while (Date.now() < untilMs) {
    const [recording] = await recordingsById([started.id]);
    if (!recording) break;
    if (recording.state === 'saved') return { ok: true, recording };
    if (recording.state === 'failed' || recording.state === 'cancelled')
      return { ok: false, message: recording.message };
    await pause(LOOK_MS);
  }
  return { ok: false, message: 'It was not saved in time.' };
}

async function placeOf(address: string, service: string, host: string): Promise<Place | { refused: string }> {
  if (address !== '') return allowedPlace(address, settings().inspectPlaces);
  const found = await recordableProcesses(settings().inspectPlaces);
  const ofIt = found.filter((one) => one.service === service && (host === '' || one.host === host));
  if (ofIt.length === 0)
    return {
      refused: `No process of ${service || 'a service'}${host ? ` on ${host}` : ''} answers at the addresses of TROMIX_INSPECT.`
    };
  return allowedPlace(ofIt[0].address, settings().inspectPlaces);
}
