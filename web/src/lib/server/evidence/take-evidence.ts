import { readFile } from 'node:fs/promises';
import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import type { FailureIdentity } from '@tromix/core/failures/identity';
import type { Warning } from '@tromix/core/formats/evidence-error';
import { isGzip } from '@tromix/core/formats/gzip';
import { maskText } from '@tromix/core/mask/text';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { wellFormed } from '@tromix/core/text/well-formed';
import { inTimeRange, MAX_DURATION_NS } from '@tromix/core/trace/time-range';
import { guarded, NotTried } from '../guarded';
import { DISK_FULL, type Outcome } from '../ingest/outcome';
import type { OldTraces } from '../ingest/accepted';
import { publish } from '../live';
import { evidenceItem } from '../queries/evidence';
import { settings } from '../settings';
import { ThreadEnded } from '../thread';
import { callExaminer, callWriter, change } from '../workers';
import { EvidenceStore, isDiskFull, TooLarge, type TakenFile } from './evidence-store';
import type { Examined, EvidenceLabel, ExaminedKind, KindOnServer } from './kind';
import { KINDS_ON_SERVER } from './kinds';
import { LIFECYCLE } from './lifecycle';
import { evidenceTurns } from './remove-evidence';

export type { EvidenceLabel } from './kind';

export interface TakenEvidence {
  id: string;
  kind: EvidenceKind | 'traces' | 'pages';
  spans?: number;
  /** Page loads of an archive, and the one to be looked at first. */
  loads?: { count: number; first: string };
  statements?: number;
  /** When it was taken, or its first span began, and how long it lasted; null where that is not known. */
  startedAtUs: number | null;
  durationNs: number;
  /** Traces older than they are kept: they go after the grace time unless somebody keeps them. */
  old?: OldTraces & { keepDays: number; graceMinutes: number };
  warnings: Warning[];
}

/**
 * Takes a file in: stored, recognised and read whole in a worker, then recorded. A file that cannot be read leaves nothing
 * behind. Traces are ingested, and so are page loads of an archive; profiles and dumps are kept; of logs of statements only
 * the masked groups are, since the lines hold values.
 */
export async function takeEvidence(
  stream: AsyncIterable<Uint8Array>,
  given: EvidenceLabel
): Promise<Outcome<TakenEvidence>> {
  const { dataFolder, maxUploadBytes, maxProfileBytes } = settings();
  const label = maskedLabel(given);
  const store = new EvidenceStore(dataFolder);
  let taken: TakenFile;
  try {
    taken = await store.take(stream, maxUploadBytes);
  } catch (cause) {
    if (cause instanceof TooLarge) return { ok: false, code: 'too-large', message: cause.message };
    if (isDiskFull(cause)) return { ok: false, code: 'disk-full', message: DISK_FULL };
    throw cause;
  }
  try {
    const examined = await examine(taken, label, maxProfileBytes);
    if (!examined.ok) return examined;
    const found = examined.value;
    if (found.kind === 'traces')
      return await ingestFile(taken, found.format === 'otlp-json' ? 'json' : 'protobuf');
    if (found.kind === 'pages') return await addLoads(taken, label, found.loads);
    taken = { ...taken, ...found.cleaned };
    return await keep(store, taken, label, found);
  } catch (cause) {
    if (isDiskFull(cause) || (cause as Error).message.includes('SQLITE_FULL'))
      return { ok: false, code: 'disk-full', message: DISK_FULL };
    throw cause;
  } finally {
    await store.drop(taken);
  }
}

/** What the sender says of a file may give something away too. */
function maskedLabel(label: EvidenceLabel): EvidenceLabel {
  const masked = (text: string): string => maskText(wellFormed(text), 'name');
  return {
    ...label,
    name: masked(label.name),
    service: masked(label.service),
    host: masked(label.host),
    release: masked(label.release)
  };
}

/** A time that a file tells of itself; not known where it cannot be. */
const knownTime = (us: number | null): number | null => (us !== null && inTimeRange(us) ? us : null);

const MS_PER_DAY = 86_400_000;
/** A file may take so long to be read, and for each byte so much longer. */
const READ_MS = 60_000;
const READ_MS_PER_BYTE = 1 / 1024;

/** Says what a file is. One that ends the thread that reads it is reported as such, and not read again after the second time. */
async function examine(
  taken: TakenFile,
  { name }: EvidenceLabel,
  maxProfileBytes: number
): Promise<Outcome<Examined>> {
  try {
    return await guarded({ kind: 'file', id: taken.id, name: name || taken.id.slice(0, 12) }, () =>
      callExaminer(
        (examiner) => examiner.examine(taken.path, maxProfileBytes, taken.id),
        READ_MS + taken.bytes * READ_MS_PER_BYTE
      )
    );
  } catch (cause) {
    if (cause instanceof NotTried) return { ok: false, code: 'set-aside', message: cause.message };
    if (!(cause instanceof ThreadEnded)) throw cause;
    return {
      ok: false,
      code: 'reader-died',
      message:
        'The thread that read this file ended: it took too much memory or time. Nothing of the file was kept, and nothing else was lost.'
    };
  }
}

/** Records what was found in a file, and keeps the file itself where that may be kept. */
async function keep<K extends EvidenceKind>(
  store: EvidenceStore,
  taken: TakenFile,
  given: EvidenceLabel,
  examined: ExaminedKind<K>
): Promise<Outcome<TakenEvidence>> {
  const onServer: KindOnServer<K> = KINDS_ON_SERVER[examined.kind];
  const label = onServer.label(given, examined);
  const warnings = [...examined.warnings, ...(onServer.warnings?.(label) ?? [])];
  const { id } = taken;
  const { kind, format, durationNs, log } = examined;
  const failure = examined.failure && ofService(examined.failure, label.service);
  // What comes again may have been looked at already: what was found in it stays.
  const summary = examined.summary ?? (await evidenceItem(id))?.summary ?? null;
  const { keepDays, ...known } = label;
  const record = {
    ...known,
    keepUntilUs: keepDays === undefined ? null : (Date.now() + keepDays * MS_PER_DAY) * 1000,
    id,
    kind,
    format,
    bytes: taken.bytes,
    startedAtUs: knownTime(label.startedAtUs),
    durationNs: durationNs >= 0 && durationNs <= MAX_DURATION_NS ? durationNs : 0,
    receivedAtUs: Date.now() * 1000,
    summary: JSON.stringify({ ...summary, warnings })
  };
  const list = async (): Promise<void> => {
    await callWriter((writer) => writer.addEvidence(record, { statements: log?.groups, failure }));
    if (examined.names && examined.names.length > 0) await change('nameEvidence', id, examined.names);
  };
  if (onServer.keepsFile)
    // The same file may be removed just now: its row and the file itself come and go together.
    await evidenceTurns.take(id, async () => {
      await store.keep(taken);
      try {
        await list();
      } catch (cause) {
        if ((await evidenceItem(id)) === null) await store.remove(id);
        throw cause;
      }
    });
  else await list();
  await LIFECYCLE[examined.kind]?.kept(id);
  publish('evidence');
  return {
    ok: true,
    value: {
      id,
      kind,
      warnings,
      startedAtUs: record.startedAtUs,
      durationNs: record.durationNs,
      ...(log ? { statements: log.statements } : {})
    }
  };
}

/** A failure without a place in the code is one of its service. */
const ofService = (identity: FailureIdentity, service: string): FailureIdentity => ({
  ...identity,
  endpoint: identity.endpoint && `${service}${identity.endpoint}`
});

/** Page loads become loads as those that browsers send; the archive itself holds values, and is not kept. */
async function addLoads(
  { id }: TakenFile,
  { service, release }: EvidenceLabel,
  read: readonly PageLoad[]
): Promise<Outcome<TakenEvidence>> {
  const loads = read.map((load) => ({
    ...load,
    service: service || load.service,
    release: release || load.release
  }));
  await callWriter((writer) => writer.addPageLoads(loads));
  const [first] = loads;
  return {
    ok: true,
    value: {
      id,
      kind: 'pages',
      loads: { count: loads.length, first: first.traceId },
      warnings: [],
      startedAtUs: knownTime(first.atUs),
      durationNs: 0
    }
  };
}

async function ingestFile(taken: TakenFile, encoding: 'json' | 'protobuf'): Promise<Outcome<TakenEvidence>> {
  const body = await readFile(taken.path);
  const answer = await callWriter((writer) => writer.ingest(body, encoding, isGzip(body)));
  if (!answer.ok) return answer;
  const { spans, warnings, old, times } = answer.value;
  const { days, graceMinutes } = settings().retention;
  return {
    ok: true,
    value: {
      id: taken.id,
      kind: 'traces',
      spans,
      warnings,
      startedAtUs: times?.fromUs ?? null,
      durationNs: times ? (times.toUs - times.fromUs) * 1000 : 0,
      ...(old ? { old: { ...old, keepDays: days, graceMinutes } } : {})
    }
  };
}
