import { error } from '@sveltejs/kit';
import * as v from 'valibot';
import type { TakingPart } from '$lib/server/queries/hosts/taking-part';
import { Moment } from './host-and-window';

/** Processes that one request may ask for. */
const MOST = 50;
const Asked = v.object({
  processes: v.pipe(
    v.string(),
    v.parseJson(),
    v.pipe(v.array(v.object({ host: v.string(), pid: v.number(), service: v.string() })), v.maxLength(MOST))
  ),
  from: Moment,
  to: Moment
});

/** Processes, and the time that a question about their counters is about. Answers 400 where they are none. */
export function partsAndWindow(url: URL): {
  processes: TakingPart[];
  window: { fromMs: number; toMs: number };
} {
  const asked = v.safeParse(Asked, Object.fromEntries(url.searchParams));
  if (!asked.success || asked.output.to < asked.output.from)
    error(
      400,
      'Expected processes as a JSON list of host, pid and service, and from and to in epoch milliseconds.'
    );
  const { processes, from, to } = asked.output;
  return { processes, window: { fromMs: from, toMs: to } };
}
