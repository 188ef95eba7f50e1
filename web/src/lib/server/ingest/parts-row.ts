import type { OutgoingSums } from '@tromix/core/calls/outgoing';
import type { RequestPart } from '@tromix/core/calls/parts';
import { writeSketch } from '@tromix/core/stats/sketch';
import { CALL_SUMS, OUTGOING_SUMS } from '../db/call-sums';

/** Figures of calls, of one request or of many. Nanoseconds. */
export type CallSums = Record<(typeof CALL_SUMS)[number] | 'slowestNs', number>;

/** What is stored of a part of a request. */
export interface PartRecord extends CallSums {
  groupId: number;
  originId: number;
  /** As `writeSketch` writes it. */
  sketch: string;
  /** Of outgoing HTTP calls, by their status. */
  outgoing: OutgoingSums[];
}

/** The order in which a part is stored: a list is much shorter than an object, and there are many. */
const FIELDS = [
  'groupId',
  'originId',
  ...CALL_SUMS,
  'slowestNs',
  'sketch'
] as const satisfies readonly (keyof PartRecord)[];
const OUTGOING_FIELDS = ['status', ...OUTGOING_SUMS] as const;

export const partRecord = (part: RequestPart, groupId: number, originId: number): PartRecord => ({
  groupId,
  originId,
  calls: part.count,
  totalNs: part.totalNs,
  bookedNs: part.bookedNs,
  failed: part.failed,
  retried: part.retried,
  onRound: part.onRound,
  rows: part.rows,
  rowsKnown: part.rowsKnown,
  bytesRead: part.bytesRead,
  bytesWritten: part.bytesWritten,
  slowestNs: part.slowestNs,
  sketch: writeSketch(part.sketch),
  outgoing: part.outgoing
});

/** Parts as the text that is stored: what only outgoing calls have comes last, and only with them. */
export const writeParts = (parts: readonly PartRecord[]): string =>
  JSON.stringify(
    parts.map((part) => [
      ...FIELDS.map((field) => part[field]),
      ...(part.outgoing.length > 0
        ? [part.outgoing.map((sums) => OUTGOING_FIELDS.map((field) => sums[field]))]
        : [])
    ])
  );

export const readParts = (text: string): PartRecord[] =>
  (JSON.parse(text) as unknown[][]).map(
    (part) =>
      ({
        ...namedBy(FIELDS, part),
        outgoing: ((part[FIELDS.length] ?? []) as unknown[][]).map((sums) => namedBy(OUTGOING_FIELDS, sums))
      }) as unknown as PartRecord
  );

const namedBy = (fields: readonly string[], values: readonly unknown[]): Record<string, unknown> =>
  Object.fromEntries(fields.map((field, i) => [field, values[i]]));

/** A field of a stored part in SQL. @param part its row of `json_each` */
export const partField = (part: string, field: (typeof FIELDS)[number]): string =>
  `${part}.value->>${FIELDS.indexOf(field)}`;
