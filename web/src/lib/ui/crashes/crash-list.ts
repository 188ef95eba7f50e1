import { CAUSES } from '@tromix/core/crashes/causes';
import { endWords, type CrashSummary } from '@tromix/core/crashes/summary';
import { plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import { shortType } from '$lib/ui/failures/failure-words';
import type { EvidenceItem } from '$lib/server/queries/evidence';

/** Crashes that are one row: a process that is started again and ends the same way, again and again. */
export interface CrashRow {
  /** The newest. */
  last: EvidenceItem<'crash'>;
  /** Epoch milliseconds of the first and the last. */
  firstMs: number;
  lastMs: number;
  times: number;
}

/** Crashes of one kind that follow each other so soon are a loop of restarts. */
const LOOP_MS = 10 * 60_000;

const timeOf = ({ startedAtUs, receivedAtUs }: EvidenceItem<'crash'>): number =>
  (startedAtUs ?? receivedAtUs) / 1000;
const alike = ({ service, host, summary }: EvidenceItem<'crash'>): string =>
  JSON.stringify([service, host, summary?.cause, summary?.type, summary?.function, summary?.message]);

/** Newest first; those of one loop as one. */
export function crashRows(items: readonly EvidenceItem<'crash'>[]): CrashRow[] {
  const rows: CrashRow[] = [];
  const open = new Map<string, CrashRow>();
  for (const item of items.toSorted((a, b) => timeOf(b) - timeOf(a))) {
    const at = timeOf(item);
    const row = open.get(alike(item));
    if (row && row.firstMs - at <= LOOP_MS) {
      row.firstMs = at;
      row.times++;
      continue;
    }
    const begun: CrashRow = { last: item, firstMs: at, lastMs: at, times: 1 };
    open.set(alike(item), begun);
    rows.push(begun);
  }
  return rows;
}

/** What ended a process, as lists call it. */
export function crashTitle(summary: CrashSummary | null): string {
  if (!summary) return 'a crash that cannot be read';
  const { type, message, signal, exitCode } = summary;
  return [shortType(type), message].filter(Boolean).join(': ') || endWords(signal, exitCode);
}

export function listReading(rows: readonly CrashRow[]): Words[] {
  if (rows.length === 0) return [['No process that ended by itself was told of here.']];
  const [newest] = rows;
  const loop = rows.find(({ times }) => times > 2);
  const memory = rows.filter(({ last }) => last.summary?.cause === 'memory');
  return [
    words`${[
      plural(
        rows.reduce((sum, { times }) => sum + times, 0),
        'crash',
        'crashes'
      )
    ]} of ${[plural(rows.length, 'kind')]}. The newest: ${[newest.last.service || 'a process']}, ${[newest.last.summary ? CAUSES[newest.last.summary.cause] : 'not told']}.`,
    loop
      ? words`${[loop.last.service || 'One process']} is started again and again and ends the same way: ${[plural(loop.times, 'time')]}.`
      : [],
    memory.length > 0
      ? words`${[memory[0].last.service || 'A process']} ran out of memory; a heap dump taken near the limit shows what filled it.`
      : []
  ].filter((sentence) => sentence.length > 0);
}
