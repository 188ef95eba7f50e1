import type { RowKind } from '@tromix/core/counters/strips';
import { namedHost, scopeFrom, scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { healthBy, type Health } from '$lib/server/queries/hosts/health';
import { hostOf } from '$lib/server/queries/hosts/one/one-host';
import { stripsOf } from '$lib/server/queries/hosts/hosts';
import { refusedCounters } from '$lib/server/queries/hosts/refused-counters';
import { HOST_PARAMS } from '$lib/ui/hosts/hosts-state';
import type { PageServerLoad } from './$types';

/** How requests fare by the rows; nothing of processes, of which single requests are not summed up. */
async function healthOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  rows: RowKind
): Promise<ReadonlyMap<string, Health>> {
  if (rows === 'processes') return new Map();
  return healthBy(scope, window, nowMs, rows === 'hosts' ? 'host' : 'service');
}

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const { rows, one } = HOST_PARAMS.read(url.searchParams);
  const [strips, refused] = await Promise.all([stripsOf(scope, window, rows), refusedCounters(window)]);
  const { name, but } = namedHost(scope);
  const hosts = new Set(strips.rows.map(({ narrow }) => narrow.host).filter((host) => host !== undefined));
  const odd = strips.odd.map(({ row }) => strips.rows[row].narrow.host).find(Boolean);
  const host = [one, but ? '' : name, odd ?? '', ...hosts].find(
    (candidate) => candidate !== '' && hosts.has(candidate!)
  );
  return {
    window,
    strips,
    refused,
    host: host ? await hostOf(scope, window, nowMs, host) : null,
    // Requests are summed up for as long again: the strips do not wait for that.
    health: healthOf(scope, window, nowMs, rows)
  };
};
