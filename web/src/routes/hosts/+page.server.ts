import { namedHost, scopeFrom, scopeWindow } from '$lib/scope';
import { hostOf } from '$lib/server/queries/hosts/one/one-host';
import { stripsOf } from '$lib/server/queries/hosts/hosts';
import { refusedCounters } from '$lib/server/queries/hosts/refused-counters';
import { HOST_PARAMS } from '$lib/ui/hosts/hosts-state';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const { rows, one } = HOST_PARAMS.read(url.searchParams);
  const [strips, refused] = await Promise.all([
    stripsOf(scope, window, rows, nowMs),
    refusedCounters(window)
  ]);
  const { name, but } = namedHost(scope);
  const hosts = new Set(strips.rows.map(({ narrow }) => narrow.host).filter((host) => host !== undefined));
  const odd = strips.odd.map(({ row }) => strips.rows[row].narrow.host).find(Boolean);
  const host = [one, but ? '' : name, odd ?? '', ...hosts].find(
    (candidate) => candidate !== '' && hosts.has(candidate!)
  );
  return { window, strips, refused, host: host ? await hostOf(scope, window, nowMs, host) : null };
};
