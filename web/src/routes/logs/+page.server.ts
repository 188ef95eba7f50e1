import { rowsAsked } from '$lib/rows-asked';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { logOf, logsOf } from '$lib/server/queries/logs';
import { settings } from '$lib/server/settings';
import { leastSeverity, LOG_PARAMS } from '$lib/ui/logs/log-state';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const window = scopeWindow(scope, Date.now());
  const { text, level, outside, record } = LOG_PARAMS.read(url.searchParams);
  const [list, one] = await Promise.all([
    logsOf(scope, window, { text, severity: leastSeverity(level), outside }, rowsAsked(url.searchParams)),
    record > 0 ? logOf(record) : null
  ]);
  return { window, list, one, logDays: settings().retention.logDays };
};
