import type { Routes } from '../platform/http';
import { log } from '../platform/log';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';
import { HttpError } from './http-error';

export class BerthTaken extends HttpError {}

const BERTHS = 36;

/** Reserves berths. By night two calls may be given the same one: who comes second finds it taken. */
export function reserveRoutes(settings: Settings): Routes {
  const takenFrom = new Map<number, number>();
  const HELD_MS = 4000;

  function reserve(call: number, window: string): number {
    const wanted = 1 + (call % BERTHS);
    const isTaken = (berth: number): boolean => (takenFrom.get(berth) ?? 0) + HELD_MS > Date.now();
    if (!isTaken(wanted)) {
      takenFrom.set(wanted, Date.now());
      return wanted;
    }
    log.warn(`berth ${wanted} is held for another call`, { berth: wanted, 'berth.window': window });
    // By day the next one is taken.
    if (window === 'night' && settings.faults.has('berth-conflict'))
      throw new BerthTaken(409, `berth ${wanted} is already reserved for this tide`);
    const next = Array.from({ length: BERTHS }, (_, i) => 1 + ((wanted + i) % BERTHS)).find(
      (berth) => !isTaken(berth)
    );
    return next ?? wanted;
  }

  return {
    'POST /calls/:id/reserve': async ({ path, query }) => {
      const window = query.get('window') ?? 'day';
      const call = Number(path.id);
      return inSpan('reserve berth', { 'quillhaven.call': call, 'berth.window': window }, () => {
        const berth = reserve(call, window);
        log.info(`berth ${berth} is reserved`, { berth });
        return { call, berth };
      });
    }
  };
}
