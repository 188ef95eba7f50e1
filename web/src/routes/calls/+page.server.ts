import { choiceOf } from '$lib/choice';
import { CALL_ROWS, rowsOfKind, usualRows, type CallRows } from '$lib/call-choices';
import { callsOf } from '$lib/server/queries/calls/calls';
import { evidenceOf } from '$lib/server/queries/evidence';
import { originsById } from '$lib/server/queries/names-by-id';
import { loggedStatements } from '$lib/server/queries/statements';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = (name: string): string => url.searchParams.get(name) ?? '';
  const logs = await evidenceOf('statements');
  const log = logs.find(({ id }) => id === asked('log'))?.id ?? '';
  const fromLogs = asked('source') === 'logs';
  const kind = /^[a-z]+$/.test(asked('kind')) ? asked('kind') : '';
  const usual = usualRows(kind);
  const named: CallRows = choiceOf(CALL_ROWS, asked('rows'), usual);
  const rows = rowsOfKind(kind).includes(named) ? named : usual;
  const file = kind === 'file' ? asked('file') : '';
  const origin = /^\d{1,9}$/.test(asked('origin')) ? Number(asked('origin')) : undefined;
  const scope = scopeFrom(url.searchParams);
  const originNames = origin === undefined ? null : await originsById([origin]);
  return {
    origin:
      origin === undefined ? null : { id: origin, name: originNames?.get(origin) ?? '(origin not recorded)' },
    rows,
    kind,
    file,
    logs: logs.map(({ id, name }) => ({ id, name })),
    log,
    calls: fromLogs ? null : await callsOf(scope, { rows, kind, origin, file }, Date.now()),
    logged: fromLogs ? await loggedStatements(log) : null
  };
};
