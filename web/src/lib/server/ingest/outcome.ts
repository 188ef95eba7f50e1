import type { ErrorCode } from '@tromix/core/formats/codes';

/** An answer from a worker: a value, or why the content was refused. */
export type Outcome<T> = { ok: true; value: T } | Refusal;

export interface Refusal {
  ok: false;
  code: ErrorCode;
  message: string;
  offset?: number;
}

/** What is said wherever there is no room left to write. */
export const DISK_FULL =
  'The disk of the data folder is full. Nothing of this was kept; free some room and send it again.';
