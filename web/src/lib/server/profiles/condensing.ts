import type { ServedRequest } from '@tromix/core/profile/sums/condense';
import { bytesValue } from '../db/database';
import { oneOf } from '../db/bulk';
import { reader, select } from '../db/reader';
import { fileOf } from '../evidence/file-of';
import { guarded, NotTried } from '../guarded';
import { spansSelect } from '../ingest/span-rows';
import { loadResources } from '../ingest/stored-spans';
import { publish } from '../live';
import { itemOfKind, type EvidenceItem } from '../queries/evidence';
import { countDuring, placesDuring } from '../queries/recorded-requests';
import { ThreadEnded } from '../thread';
import { repeatedly } from '../watch/schedule';
import { callCondenser, callWriter, change } from '../workers';
import type { Condensed } from './condenser.worker';
import { LookAgain } from './look-again';
import { thinOut } from './thin-out';

const LOOK_MS = 3000;
const THIN_MS = 60_000;
/** Profiles that came so lately are looked at again, whether more of the requests of their time are known by now. */
const FRESH_US = 24 * 3600e6;
const AT_ONCE = 1000;
/** Requests of one recording that are told apart; with more it is summed up as a whole. */
const MOST_REQUESTS = 20_000;
/** Spans are read for so many requests at once. */
const TOGETHER = 200;
/** A recording that takes longer ends the thread. */
const WITHIN_MS = 120_000;

type Profile = EvidenceItem<'profile'>;

const failed = (cause: unknown): void =>
  console.error(`Recordings could not be summed up: ${(cause as Error).message}`);

/**
 * Sums recordings up until the server ends, so that they can be added to others: each when it comes, and again while more becomes known of the
 * requests that ran in its time.
 */
export function keepCondensing(): void {
  repeatedly(LOOK_MS, condenseDue, failed);
  repeatedly(THIN_MS, () => thinOut(Date.now()), failed);
}

/** Requests come one after another, and then no more. */
const lookAgain = new LookAgain();

async function condenseDue(): Promise<void> {
  let done = 0;
  const now = Date.now();
  const found = await candidates();
  lookAgain.keep(new Set(found.map(({ id }) => id)));
  for (const { id, requests } of found) {
    if (!lookAgain.isDue(id, now)) continue;
    const item = await itemOfKind(id, 'profile');
    if (!item) continue;
    const known = await countDuring(item);
    lookAgain.looked(id, now, known !== requests);
    if (known === requests) continue;
    // One that cannot be stored just now holds up no other: it is tried again.
    await condenseOne(item, known).then(() => done++, failed);
  }
  if (done > 0) publish('profiles');
}

/** New profiles, and fresh ones with the number of requests they were summed up with. */
const candidates = (): Promise<{ id: string; requests: number | null }[]> =>
  select(
    `SELECT e.id AS id, c.requests AS requests FROM evidence e LEFT JOIN profile_condensed c ON c.evidence_id = e.id
      WHERE e.kind = 'profile' AND (c.evidence_id IS NULL
        OR (e.received_at_us > ? AND c.message = ''))
      ORDER BY c.at_us LIMIT ${AT_ONCE}`,
    [Date.now() * 1000 - FRESH_US]
  );

/** What a profile must say to be summed up; '' where it does. */
function missing({ service, startedAtUs }: Profile): string {
  if (startedAtUs === null) return 'It does not say when it began.';
  return service === '' ? 'It does not say of which service it is.' : '';
}

async function condenseOne(item: Profile, requests: number): Promise<void> {
  const { id, service, host, release, pid } = item;
  const lacks = missing(item);
  if (lacks) return change('noteCondensed', id, requests, lacks);
  const found = await sumsOf(item, requests);
  if (!found.ok) return change('noteCondensed', id, requests, found.message);
  const { valueType, condensed } = found;
  const summed = { source: id, service, host, release, pid, requests, valueType, condensed };
  await callWriter((writer) => writer.addProfileSums(summed));
}

/** What a profile comes to; why it comes to nothing, where it cannot be read. */
async function sumsOf(item: Profile, requests: number): Promise<Condensed> {
  try {
    const served = requests > MOST_REQUESTS ? [] : await servedDuring(item);
    return await guarded({ kind: 'file', id: item.id, name: item.name }, () =>
      callCondenser((condenser) => condenser.condense(fileOf(item), item.startedAtUs!, served), WITHIN_MS)
    );
  } catch (cause) {
    if (cause instanceof NotTried || cause instanceof ThreadEnded)
      return { ok: false, message: cause.message };
    throw cause;
  }
}

/** When the requests of a recording computed themselves. */
async function servedDuring(item: Profile): Promise<ServedRequest[]> {
  const places = await placesDuring(item, MOST_REQUESTS);
  const served: ServedRequest[] = [];
  for (let at = 0; at < places.length; at += TOGETHER) {
    const some = places.slice(at, at + TOGETHER);
    const traces = [...new Set(some.map(({ traceId }) => traceId))];
    const spans = await bytesValue(await reader(), spansSelect(oneOf('trace_id')), [JSON.stringify(traces)]);
    const used = await select<{ id: number }>(
      `SELECT DISTINCT resource_id AS id FROM spans WHERE ${oneOf('trace_id')}`,
      [JSON.stringify(traces)]
    );
    const resources = await loadResources(
      await reader(),
      used.map(({ id }) => id)
    );
    served.push(
      ...(await callCondenser(
        (condenser) => condenser.ownTimes(spans, resources, some, item.startedAtUs!),
        WITHIN_MS
      ))
    );
  }
  return served;
}
