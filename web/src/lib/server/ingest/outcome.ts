/** An answer from a worker: a value, or why the content was refused. */
export type Outcome<T> = { ok: true; value: T } | Refusal;

export interface Refusal {
  ok: false;
  code: string;
  message: string;
  offset?: number;
}
