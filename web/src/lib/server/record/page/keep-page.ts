import { randomBytes } from 'node:crypto';
import { Readable } from 'node:stream';
import { decodeTracesJson } from '@tromix/core/formats/otlp/traces';
import { partsFromBatch } from '@tromix/core/pages/from-batch';
import { mergeParts, type ToldLoad } from '@tromix/core/pages/merge-parts';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { slowDownWords } from '@tromix/core/pages/slow-down';
import script from '../../../../../../collect/src/record.ts?browserscript';
import { takeEvidence } from '../../evidence/take-evidence';
import { callRecorder, callWriter, change } from '../../workers';
import { addressOf, type Place } from '../addresses';
import type { PageOrder, RecordedPage } from './record-page';

export type PageOutcome = { ok: true; load: string } | { ok: false; status: number; message: string };

/** Browsers that load a page just now: two loads at once would slow each other down. */
const busy = new Set<string>();

/** Records a load of a page, and keeps it with its profile. */
export async function recordAndKeep(place: Place, order: PageOrder): Promise<PageOutcome> {
  const address = addressOf(place);
  if (busy.has(address))
    return { ok: false, status: 409, message: 'This browser is loading a page for somebody already.' };
  busy.add(address);
  try {
    const recorded = await callRecorder((recorder) => recorder.page(place, order, script));
    if (!recorded.ok) return { ok: false, status: 502, message: recorded.message };
    return await keep(recorded.page, order);
  } finally {
    busy.delete(address);
  }
}

async function keep(page: RecordedPage, order: PageOrder): Promise<PageOutcome> {
  const told = page.parts
    .flatMap(({ text, atUs }) => partsFromBatch(decodeTracesJson(text), atUs).parts)
    .reduce<ToldLoad | null>((all, part) => (all ? mergeParts(all, part) : part), null);
  if (!told) return { ok: false, status: 502, message: 'The page told nothing of its load.' };
  const load = labelled(told.load, page, order);
  await callWriter((writer) => writer.addPageLoads([load]));
  const profile = await takeEvidence(Readable.from([Buffer.from(page.profile)]), {
    name: `${load.page}, as it was recorded`,
    service: load.service,
    host: RECORDER,
    release: load.release,
    pid: 0,
    startedAtUs: Math.round(load.atUs + page.profileStartMs * 1000)
  });
  if (profile.ok) await change('putPageProfile', load.traceId, profile.value.id);
  return { ok: true, load: load.traceId };
}

/** The host that profiles of recorded pages are of. */
const RECORDER = 'recorded page';

const labelled = (load: PageLoad, { unused }: RecordedPage, order: PageOrder): PageLoad => {
  const shares = new Map(unused);
  return {
    ...load,
    source: 'recorder',
    session: `recorded-${randomBytes(6).toString('hex')}`,
    device: order.device,
    connection: slowDownWords(order.network, order.cpu),
    resources: load.resources.map((one) =>
      one.kind === 'script' ? { ...one, unusedShare: shares.get(one.url) ?? null } : one
    )
  };
};
