import { choiceOf } from '$lib/choice';
import { CALL_ROWS, type CallRows } from '$lib/call-choices';
import { callsOf } from '$lib/server/queries/calls';
import { evidenceOf } from '$lib/server/queries/evidence';
import { originsById } from '$lib/server/queries/names-by-id';
import { loggedStatements } from '$lib/server/queries/statements';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = (name: string): string => url.searchParams.get(name) ?? '';
  const rows: CallRows = choiceOf(CALL_ROWS, asked('rows'), 'statement');
  const logs = await evidenceOf('statements');
  const log = logs.find(({ id }) => id === asked('log'))?.id ?? '';
  const fromLogs = asked('source') === 'logs';
  const kind = /^[a-z]+$/.test(asked('kind')) ? asked('kind') : '';
  const origin = /^\d{1,9}$/.test(asked('origin')) ? Number(asked('origin')) : undefined;
  const scope = scopeFrom(url.searchParams);
  const originNames = origin === undefined ? null : await originsById([origin]);
  return {
    origin:
      origin === undefined ? null : { id: origin, name: originNames?.get(origin) ?? '(origin not recorded)' },
    rows,
    kind,
    logs: logs.map(({ id, name }) => ({ id, name })),
    log,
    calls: fromLogs ? null : await callsOf(scope, { rows, kind, origin }, Date.now()),
    logged: fromLogs ? await loggedStatements(log) : null
  };
};
