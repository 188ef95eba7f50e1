import { stepOfSpan } from '@tromix/core/load/recorded';
import { evidenceOf } from '$lib/server/queries/evidence';
import { loadRun, loadRuns } from '$lib/server/queries/load-runs';
import { spanOf } from '$lib/server/queries/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:runs');
  const [runs, evidence, repeated, again] = await Promise.all([
    loadRuns(),
    evidenceOf('load'),
    stepsOfRequest(url.searchParams.get('repeat') ?? ''),
    loadRun(Number(url.searchParams.get('again')) || 0)
  ]);
  const summaries = new Map(evidence.map(({ id, summary }) => [id, summary]));
  return {
    runs: runs.map((run) => ({ ...run, summary: summaries.get(run.evidenceId) ?? null })),
    repeated,
    again: again?.plan ?? null,
    title: 'Load runs'
  };
};

/** The steps of a request that is to be repeated, `trace/span`; null where none is. */
async function stepsOfRequest(path: string) {
  const [trace, span] = path.split('/');
  const found = trace && span ? await spanOf(trace, span) : null;
  return found && stepOfSpan(found);
}
