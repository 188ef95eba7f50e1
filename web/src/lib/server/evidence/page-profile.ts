import { Readable } from 'node:stream';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { v8ProfileOf } from '@tromix/core/pages/self-profile';
import { BROWSERS } from '../ingest/pages/page-errors';
import type { Outcome } from '../ingest/outcome';
import { loadBrief } from '../queries/pages/load-brief';
import { settings } from '../settings';
import { change } from '../workers';
import { takeEvidence, type TakenEvidence } from './take-evidence';

/** Keeps a profile that a page made of itself, as evidence, and notes it with its load. It goes when its load goes. */
export async function takePageProfile(traceId: string, body: Uint8Array): Promise<Outcome<TakenEvidence>> {
  const load = await loadBrief(traceId);
  if (load === null)
    return {
      ok: false,
      code: 'not-found',
      message: 'The load that this profile is of was not sent before it.'
    };
  // One is enough, and a page might send without end.
  if (load.profile !== '') return { ok: false, code: 'has-one', message: 'The load has a profile already.' };
  let profile: { json: string; startMs: number };
  try {
    profile = v8ProfileOf(new TextDecoder().decode(body));
  } catch (cause) {
    if (!(cause instanceof EvidenceError)) throw cause;
    return { ok: false, code: cause.code, message: cause.message };
  }
  const taken = await takeEvidence(Readable.from([Buffer.from(profile.json)]), {
    name: `${load.page}, as the page saw itself`,
    service: load.site,
    host: BROWSERS,
    release: load.release,
    pid: 0,
    startedAtUs: Math.round(load.startUs + profile.startMs * 1000),
    keepDays: settings().retention.days
  });
  if (taken.ok) await change('putPageProfile', traceId, taken.value.id);
  return taken;
}
