import { select } from '$lib/server/db/reader';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

/** Deeds that are shown. */
const SHOWN = 20;

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:recordings');
  return {
    mayObserve: settings().mayObserve,
    done: await select<{ id: number; atUs: number; who: string; what: string }>(
      `SELECT id, at_us AS atUs, who, what FROM done_log ORDER BY id DESC LIMIT ${SHOWN}`
    )
  };
};
