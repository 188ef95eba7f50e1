import { readFile } from 'node:fs/promises';
import { gunzip } from '@tromix/core/formats/gzip';
import { readRun } from '@tromix/core/load/run-file';
import { EvidenceStore } from '../evidence/evidence-store';
import { settings } from '../settings';
import { callWriter } from '../workers';

/** Lists a run whose file has become evidence, so that its requests are known as its own; one that ran here is listed already. */
export async function listLoadRun(evidenceId: string): Promise<void> {
  const { dataFolder, maxProfileBytes } = settings();
  const content = await readFile(new EvidenceStore(dataFolder).pathOf(evidenceId));
  const { key, name, end, endUs, startedAtUs, plan } = readRun(
    gunzip(content, { maxBytes: maxProfileBytes, setting: 'TROMIX_MAX_PROFILE_BYTES' })
  );
  await callWriter((writer) =>
    writer.putLoadRun({
      key,
      name,
      state: end,
      evidenceId,
      startedAtUs,
      endUs: Math.round(endUs),
      plan: JSON.stringify(plan)
    })
  );
}
