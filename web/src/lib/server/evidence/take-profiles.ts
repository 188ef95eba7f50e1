import type { SplitProfile } from '@tromix/core/profile/otlp/split';
import { NO_RELEASE } from '@tromix/core/trace/resource';
import type { Accepted } from '../ingest/accepted';
import { nameOf } from '../ingest/body';
import type { Outcome, Refusal } from '../ingest/outcome';
import type { SentBody } from '../ingest/signals';
import { guarded, NotTried } from '../guarded';
import { settings } from '../settings';
import { ThreadEnded } from '../thread';
import { callExaminer } from '../workers';
import { takeEvidence } from './take-evidence';

/** Profiles taken of one message: a host sends one for each of its processes. */
const MOST = 64;
/** What is sent all the time does not stay as files: its sums by slices do. */
const KEEP_DAYS = 1;
const SPLIT_MS = 30_000;

type Taken = Pick<Accepted, 'rejected' | 'warnings'>;

/** Takes the profiles of an OTLP message as evidence, each of its process. One that is refused does not hold up the others. */
export async function takeProfiles(sent: SentBody): Promise<Outcome<Taken>> {
  const split = await splitWithin(sent);
  if (!split.ok) return split;
  const { profiles, more } = split.value;
  const taken: Taken = { rejected: [], warnings: [] };
  if (more > 0)
    taken.rejected.push({
      reason: `more than ${MOST} profiles in one message; send fewer at once.`,
      count: more
    });
  for (const profile of profiles) {
    const outcome = await takeOne(profile);
    if (outcome.ok) taken.warnings.push(...outcome.value.warnings);
    else if (isOfTheMoment(outcome)) return outcome;
    else taken.rejected.push({ reason: outcome.message, count: 1 });
  }
  return { ok: true, value: taken };
}

/** What is sent again may be taken then; what was taken already is the same file, and counts once. */
const isOfTheMoment = ({ code }: Refusal): boolean => code === 'busy' || code === 'disk-full';

async function splitWithin({
  body,
  gzip
}: SentBody): Promise<Outcome<{ profiles: SplitProfile[]; more: number }>> {
  const { maxInflatedBytes } = settings();
  const { id, name } = { id: nameOf(body), name: 'OTLP profiles' };
  try {
    return await guarded({ kind: 'batch', id, name }, () =>
      callExaminer((examiner) => examiner.split({ body, gzip }, maxInflatedBytes, MOST), SPLIT_MS)
    );
  } catch (cause) {
    if (cause instanceof NotTried) return { ok: false, code: 'set-aside', message: cause.message };
    if (!(cause instanceof ThreadEnded)) throw cause;
    return {
      ok: false,
      code: 'reader-died',
      message:
        'The thread that reads profiles ended: the message took too much memory or time. Nothing of it was kept.'
    };
  }
}

function takeOne({ resource, startedAtUs, content }: SplitProfile): ReturnType<typeof takeEvidence> {
  const { service, host, release, pid } = resource;
  return takeEvidence(once(content), {
    name: `${service}.otlp`,
    service,
    host,
    release: release === NO_RELEASE ? '' : release,
    pid,
    startedAtUs,
    keepDays: KEEP_DAYS
  });
}

async function* once(content: Uint8Array): AsyncGenerator<Uint8Array> {
  yield content;
}
