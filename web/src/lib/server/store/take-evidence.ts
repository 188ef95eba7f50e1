import { readFile } from 'node:fs/promises';
import { isProfile } from '@tromix/core/formats/recognise';
import { maskText } from '@tromix/core/mask/text';
import { wellFormed } from '@tromix/core/text/well-formed';
import { inTimeRange, MAX_DURATION_NS } from '@tromix/core/trace/time-range';
import { isGzip } from '@tromix/core/formats/gzip';
import type { StatementLog } from '@tromix/core/calls/statement-log/model';
import type { Warning } from '@tromix/core/formats/evidence-error';
import { indexState } from '../heap/indexes';
import { publish } from '../live';
import { DISK_FULL, type Outcome } from '../ingest/outcome';
import type { OldTraces } from '../ingest/writer';
import { evidenceItem } from '../queries/evidence';
import { guarded, NotTried } from '../guarded';
import { ThreadEnded } from '../thread';
import { evidenceTurns } from './remove-evidence';
import { settings } from '../settings';
import type { ThreadsSummary } from '@tromix/core/threads/summary';
import type { ExaminedEvidence } from '../jobs/evidence.worker';
import { callExaminer, callWriter } from '../workers';
import { EvidenceStore, isDiskFull, TooLarge, type TakenFile } from './evidence-store';

/** What the sender knows of a file beside its content. */
export interface EvidenceLabel {
  name: string;
  service: string;
  host: string;
  release: string;
  pid: number;
  startedAtUs: number | null;
}

export interface TakenEvidence {
  id: string;
  kind: 'profile' | 'traces' | 'statements' | 'threads' | 'heap';
  spans?: number;
  statements?: number;
  /** Traces older than they are kept: they go after the grace time unless somebody keeps them. */
  old?: OldTraces & { keepDays: number; graceMinutes: number };
  warnings: Warning[];
}

/**
 * Takes a file in: stored, recognised and read whole in a worker, then recorded. A file that cannot be read leaves nothing
 * behind. Traces are ingested; profiles and dumps are kept; of logs of statements only
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
    taken = { ...taken, ...examined.value.cleaned };
    const { format, statements, threads } = examined.value;
    if (statements) return await recordStatements(taken, label, statements, examined.value.durationNs);
    if (threads) return await keepFile(store, taken, threadsLabel(label, threads), examined.value, 'threads');
    if (examined.value.heapTakenMs !== undefined)
      return await keepHeap(store, taken, label, examined.value, examined.value.heapTakenMs);
    if (!isProfile(format)) return await ingestFile(taken, format === 'otlp-json' ? 'json' : 'protobuf');
    return await keepProfile(store, taken, label, examined.value);
  } catch (cause) {
    if (isDiskFull(cause) || (cause as Error).message.includes('SQLITE_FULL'))
      return { ok: false, code: 'disk-full', message: DISK_FULL };
    throw cause;
  } finally {
    await store.drop(taken);
  }
}

/** A profile whose process and start are not told may say them by its name. */
async function keepProfile(
  store: EvidenceStore,
  taken: TakenFile,
  label: EvidenceLabel,
  examined: ExaminedEvidence
): Promise<Outcome<TakenEvidence>> {
  const named = nodeProfileName(label.name);
  const pid = label.pid || named.pid;
  const startedAtUs = label.startedAtUs ?? named.startedAtUs;
  const missing = [
    ...(startedAtUs === null ? ['when it began'] : []),
    ...(pid || label.service ? [] : ['of which process it is'])
  ];
  const warnings =
    missing.length === 0
      ? examined.warnings
      : [
          ...examined.warnings,
          {
            code: 'no-requests',
            message: `The profile does not tell ${missing.join(' or ')}, so no request leads to it. Send it with its service and start, or under the name Node.js gives it.`,
            count: 1
          }
        ];
  return keepFile(store, taken, { ...label, pid, startedAtUs }, { ...examined, warnings }, 'profile');
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

/** A file may take so long to be read, and for each byte so much longer. */
const READ_MS = 60_000;
const READ_MS_PER_BYTE = 1 / 1024;

/** Says what a file is. One that ends the thread that reads it is told as such, and at the second time read no more. */
async function examine(
  taken: TakenFile,
  { name }: EvidenceLabel,
  maxProfileBytes: number
): Promise<Outcome<ExaminedEvidence>> {
  try {
    return await guarded({ kind: 'file', id: taken.id, name: name || taken.id.slice(0, 12) }, () =>
      callExaminer(
        (examiner) => examiner.examine(taken.path, maxProfileBytes),
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

/** Keeps the file itself, and records what was found in it. */
async function keepFile(
  store: EvidenceStore,
  taken: TakenFile,
  label: EvidenceLabel & { series?: string },
  { format, durationNs, profile, threads, warnings }: ExaminedEvidence,
  kind: 'profile' | 'threads' | 'heap'
): Promise<Outcome<TakenEvidence>> {
  // A dump that comes again is indexed already: what was found in it stays.
  const known = kind === 'heap' ? ((await evidenceItem(taken.id))?.heap ?? null) : null;
  const record = {
    ...label,
    id: taken.id,
    kind,
    format,
    bytes: taken.bytes,
    startedAtUs: knownTime(label.startedAtUs),
    durationNs: durationNs >= 0 && durationNs <= MAX_DURATION_NS ? durationNs : 0,
    receivedAtUs: Date.now() * 1000,
    summary: JSON.stringify(known ?? { ...profile, ...threads, warnings })
  };
  // The same file may be removed just now: its row and the file itself come and go together.
  await evidenceTurns.take(taken.id, async () => {
    await store.keep(taken);
    try {
      await callWriter((writer) => writer.addEvidence(record));
    } catch (cause) {
      if ((await evidenceItem(taken.id)) === null) await store.remove(taken.id);
      throw cause;
    }
  });
  publish('evidence');
  return { ok: true, value: { id: taken.id, kind, warnings } };
}

/** Heap dumps are stored as they are, and indexed when that is done: it may take a while. */
async function keepHeap(
  store: EvidenceStore,
  taken: TakenFile,
  label: EvidenceLabel,
  examined: ExaminedEvidence,
  takenMs: number
): Promise<Outcome<TakenEvidence>> {
  const series =
    label.service === '' && label.pid === 0 ? '' : `heap ${label.service} ${label.host} ${label.pid || ''}`;
  const startedAtUs = label.startedAtUs ?? (takenMs || Date.now()) * 1000;
  const kept = await keepFile(store, taken, { ...label, startedAtUs, series }, examined, 'heap');
  void indexState(taken.id, false, true);
  return kept;
}

/** Dumps tell their time, and of which process they are; a dump without a time counts from its arrival. */
function threadsLabel(label: EvidenceLabel, threads: ThreadsSummary): EvidenceLabel & { series: string } {
  const pid = label.pid || threads.pid;
  const process = pid > 0 ? `${threads.runtime} ${pid}` : threads.process;
  return {
    ...label,
    pid,
    startedAtUs: label.startedAtUs ?? (threads.firstMs ?? Date.now()) * 1000,
    series: process === '' ? '' : `threads ${label.service} ${label.host} ${process}`
  };
}

async function recordStatements(
  taken: TakenFile,
  label: EvidenceLabel,
  log: StatementLog,
  durationNs: number
): Promise<Outcome<TakenEvidence>> {
  const { format, statements, groups, warnings, firstUs } = log;
  const sum = groups.reduce((all, { totalNs }) => all + totalNs, 0);
  const record = {
    ...label,
    id: taken.id,
    kind: 'statements',
    format,
    bytes: taken.bytes,
    startedAtUs: firstUs ?? label.startedAtUs,
    durationNs,
    receivedAtUs: Date.now() * 1000,
    summary: JSON.stringify({ samples: statements, sum, warnings })
  };
  await callWriter((writer) => writer.addEvidence(record, groups));
  publish('evidence');
  return { ok: true, value: { id: taken.id, kind: 'statements', statements, warnings } };
}

async function ingestFile(taken: TakenFile, encoding: 'json' | 'protobuf'): Promise<Outcome<TakenEvidence>> {
  const body = await readFile(taken.path);
  const answer = await callWriter((writer) => writer.ingest(body, encoding, isGzip(body)));
  if (!answer.ok) return answer;
  const { spans, warnings, old } = answer.value;
  const { days, graceMinutes } = settings().retention;
  return {
    ok: true,
    value: {
      id: taken.id,
      kind: 'traces',
      spans,
      warnings,
      ...(old ? { old: { ...old, keepDays: days, graceMinutes } } : {})
    }
  };
}

/** Node names the profiles it writes `CPU.<date>.<time>.<pid>.<thread>.<sequence>.cpuprofile` (Node.js documentation, `--cpu-prof-name`). */
export function nodeProfileName(name: string): { pid: number; startedAtUs: number | null } {
  const found = /^CPU\.(\d{4})(\d\d)(\d\d)\.(\d\d)(\d\d)(\d\d)\.(\d+)\.\d+\.\d+\.cpuprofile/.exec(name);
  if (!found) return { pid: 0, startedAtUs: null };
  const [year, month, day, hour, minute, second, pid] = found.slice(1).map(Number);
  return { pid, startedAtUs: new Date(year, month - 1, day, hour, minute, second).getTime() * 1000 };
}
