import * as v from 'valibot';
import { CLOSED_STATES, evidenceOfCase, Pin, type Case, type CaseState } from '@tromix/core/case/case';
import { select } from '../db/reader';

/** A case as lists show it. */
export interface CaseItem {
  id: string;
  question: string;
  state: CaseState;
  createdAtUs: number;
  changedAtUs: number;
  entries: number;
}

/** All cases, those that are open first, then by their last change. */
export async function casesOf(): Promise<CaseItem[]> {
  const rows = await select<CaseItem>(
    `SELECT c.id, c.question, c.state, c.created_at_us AS createdAtUs, c.changed_at_us AS changedAtUs,
      (SELECT count(*) FROM case_entries e WHERE e.case_id = c.id) AS entries
      FROM cases c ORDER BY c.changed_at_us DESC LIMIT 1000`
  );
  const closed = ({ state }: CaseItem): number => (CLOSED_STATES.includes(state) ? 1 : 0);
  return rows.sort((a, b) => closed(a) - closed(b));
}

interface StoredEntry {
  id: string;
  atUs: number;
  title: string;
  text: string;
  pin: string;
  version: number;
}

/** One case with its entries in their order; null for none. */
export const caseOf = (id: string): Promise<Case | null> => readCase(id, 'pin');

/** How large a picture says it is, pixels; zeros where it does not say. */
export interface PictureSize {
  width: number;
  height: number;
}

/** The same without the pictures of its pins, which are most of it, but with the size of each, by entry. */
export async function caseWithoutPictures(
  id: string
): Promise<{ one: Case; pictured: Record<string, PictureSize> } | null> {
  const [one, pictured] = await Promise.all([
    readCase(id, `iif(pin = '', '', json_remove(pin, '$.picture'))`),
    select<{ id: string; begin: string }>(
      `SELECT id, substr(json_extract(pin, '$.picture'), 1, 1000) AS begin FROM case_entries
        WHERE case_id = ? AND pin <> '' AND json_extract(pin, '$.picture') <> ''`,
      [id]
    )
  ]);
  return (
    one && { one, pictured: Object.fromEntries(pictured.map((entry) => [entry.id, sizeOf(entry.begin)])) }
  );
}

/** The size in the first tag of an SVG. */
function sizeOf(begin: string): PictureSize {
  const [tag] = /<svg[^>]*/.exec(begin) ?? [''];
  const said = (name: string): number => Number(new RegExp(` ${name}="([\\d.]+)"`).exec(tag)?.[1] ?? 0);
  return { width: said('width'), height: said('height') };
}

/** @param pin how a pin is selected, in SQL */
async function readCase(id: string, pin: string): Promise<Case | null> {
  const [[one], entries] = await Promise.all([
    select<Omit<Case, 'entries'>>(
      'SELECT id, question, state, told, created_at_us AS createdAtUs, version FROM cases WHERE id = ?',
      [id]
    ),
    select<StoredEntry>(
      `SELECT id, at_us AS atUs, title, text, ${pin} AS pin, version FROM case_entries WHERE case_id = ? ORDER BY place, at_us`,
      [id]
    )
  ]);
  if (!one) return null;
  return { ...one, entries: entries.map(({ pin, ...entry }) => ({ ...entry, pin: pinFrom(pin) })) };
}

/** The picture of an entry's pin, SVG; '' where it has none. */
export async function pictureOf(caseId: string, entryId: string): Promise<string> {
  const [entry] = await select<{ pin: string }>('SELECT pin FROM case_entries WHERE case_id = ? AND id = ?', [
    caseId,
    entryId
  ]);
  return (entry && pinFrom(entry.pin)?.picture) ?? '';
}

/** A pin that this version cannot read is left out; what was said about it stays. */
function pinFrom(text: string): Pin | null {
  if (text === '') return null;
  const read = v.safeParse(Pin, JSON.parse(text));
  return read.success ? read.output : null;
}

/** What a case keeps from being removed. */
export interface KeptEvidence {
  /** Traces that are still here, of those it names. */
  traces: number;
  namedTraces: number;
  files: number;
  namedFiles: number;
  /** About how much of the disk it takes. */
  bytes: number;
}

export async function keptOf(one: Case): Promise<KeptEvidence> {
  const { traces, files } = evidenceOfCase(one);
  const [[stored], [kept]] = await Promise.all([
    select<{ n: number; bytes: number }>(
      `SELECT count(DISTINCT trace_id) AS n, coalesce(sum(length(attributes) + length(events) + 150), 0) AS bytes FROM spans
        WHERE trace_id IN (SELECT value FROM json_each(?))`,
      [JSON.stringify(traces)]
    ),
    select<{ n: number; bytes: number }>(
      'SELECT count(*) AS n, coalesce(sum(bytes), 0) AS bytes FROM evidence WHERE id IN (SELECT value FROM json_each(?))',
      [JSON.stringify(files)]
    )
  ]);
  return {
    traces: stored.n,
    namedTraces: traces.length,
    files: kept.n,
    namedFiles: files.length,
    bytes: stored.bytes + kept.bytes
  };
}

/** The open case that stands on a file of evidence; null for none. */
export async function caseOnFile(evidenceId: string): Promise<{ question: string } | null> {
  const [found] = await select<{ question: string }>(
    "SELECT c.question FROM case_evidence e JOIN cases c ON c.id = e.case_id WHERE e.kind = 'file' AND e.ref = ? LIMIT 1",
    [evidenceId]
  );
  return found ?? null;
}

/** What an open case keeps; a closed one nothing. */
export const keptBy = (one: Case): { traces: string[]; files: string[] } =>
  CLOSED_STATES.includes(one.state) ? { traces: [], files: [] } : evidenceOfCase(one);
