import { groupBy } from '@tromix/core/group-by';
import { publish, subscribe } from '../live';
import { settings } from '../settings';
import { change } from '../workers';
import { pauseAfter, sendHook } from './hook-send';
import { judging } from './judging';
import { dueDeliveries } from './queries';
import { repeatedly } from './schedule';

const TICK_MS = 5000;
/** Of one hook so many are sent in one go. */
const MOST_AT_ONCE = 50;
/** Hooks at which something is being sent: one that hangs holds up none of the others. */
const busy = new Set<string>();

/** Sends what is due. Resolves when it has set out; each hook goes on by itself. */
async function deliver(): Promise<void> {
  if (!judging.isHere) return;
  const due = await dueDeliveries(Date.now() * 1000, MOST_AT_ONCE);
  for (const [hookId, list] of groupBy(due, (one) => one.hookId)) {
    if (busy.has(hookId)) continue;
    busy.add(hookId);
    void sendAll(list)
      .catch((cause: unknown) => console.error('Notices could not be sent.', cause))
      .finally(() => busy.delete(hookId));
  }
}

async function sendAll(list: Awaited<ReturnType<typeof dueDeliveries>>): Promise<void> {
  for (const one of list) {
    const { ok, status, message, again } = await sendHook(one, settings().hookTargets, Date.now());
    const tries = one.tries + 1;
    const pauseMs = ok || !again ? null : pauseAfter(tries);
    await change('updateDelivery', one.id, {
      tries,
      status,
      message:
        pauseMs === null && !ok && again ? `${message} It was given up after ${tries} tries.` : message,
      state: ok ? 'sent' : pauseMs === null ? 'failed' : 'waiting',
      nextAtUs: (Date.now() + (pauseMs ?? 0)) * 1000
    });
    publish('watches');
    // Where it does not answer, the next one would only wait as long.
    if (!ok && status === 0) break;
  }
}

/** Sends notices until the server ends: as soon as something was judged, and again where it failed. */
export function keepDelivering(): void {
  const failed = (cause: unknown): void => console.error('Notices could not be looked for.', cause);
  repeatedly(TICK_MS, deliver, failed);
  subscribe((event) => {
    if (event === 'watches') void deliver().catch(failed);
  });
}
