import { error, json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Moment } from '$lib/server/http/host-and-window';
import { meanwhileOf } from '$lib/server/queries/meanwhile';
import type { RequestHandler } from './$types';

/** Hosts that one request may ask for. */
const MOST = 50;
const Asked = v.pipe(
  v.string(),
  v.parseJson(),
  v.pipe(v.array(v.object({ host: v.string(), pid: v.number(), service: v.string() })), v.maxLength(MOST))
);

/** What hosts and processes told around a time. */
export const GET: RequestHandler = async ({ url }) => {
  const asked = v.safeParse(
    v.object({ processes: Asked, from: Moment, to: Moment }),
    Object.fromEntries(url.searchParams)
  );
  if (!asked.success)
    error(
      400,
      'Expected processes as a JSON list of host, pid and service, and from and to in epoch milliseconds.'
    );
  const { processes, from, to } = asked.output;
  return json(await meanwhileOf(processes, { fromMs: from, toMs: to }));
};
