import { ask, type Routes } from '../platform/http';
import { log } from '../platform/log';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';
import { HttpError } from './http-error';

export class NoBerth extends HttpError {}
export class WatchUnknown extends HttpError {}

const WATCHES = ['first', 'middle', 'morning', 'forenoon'];
/** The release in which watches were first named by number, and the one in which they are again. */
const BY_NUMBER = ['7.3', '7.5'];
const TRIES = 3;

/** Assigns pilots to calls: the tide is asked for, a berth is reserved, and the watch that takes the call is named. */
export function assignRoutes(settings: Settings): Routes {
  /** A gauge that does not answer at once is asked again. */
  async function heightAt(station: number): Promise<unknown> {
    for (let attempt = 1; ; attempt++) {
      try {
        return await inSpan('ask gauge', { 'quillhaven.station': station, attempt }, () =>
          ask('GET', `${settings.peers.tides[0]}/tides/gauge?station=${station}`)
        );
      } catch (error) {
        if (attempt >= TRIES) throw error;
        log.warn(`the gauge of station ${station} did not answer: attempt ${attempt}`, { attempt });
      }
    }
  }

  /** Releases that name watches by number do not know the dog watch. */
  function watchOf(call: number): string {
    if (call % 17 !== 0) return WATCHES[call % WATCHES.length];
    if (BY_NUMBER.includes(settings.release) && settings.faults.has('watch-by-number'))
      throw new WatchUnknown(500, `there is no watch ${4 + (call % 3)} for call ${call}`);
    return 'dog';
  }

  return {
    'POST /calls/:id/pilot': async ({ path, query }) => {
      const call = Number(path.id);
      const height = await heightAt(1 + (call % 24));
      const watch = await inSpan('name watch', { 'quillhaven.call': call }, () => watchOf(call));
      try {
        const berth = await ask(
          'POST',
          `${settings.peers.berths[0]}/calls/${call}/reserve?window=${query.get('window') ?? 'day'}`
        );
        log.info(`call ${call} goes to the ${watch} watch`, { 'pilot.watch': watch });
        return { call, watch, height, berth };
      } catch (error) {
        throw new NoBerth(500, `no berth for call ${call}`, { cause: error });
      }
    }
  };
}
