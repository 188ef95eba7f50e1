export type CallKind = 'database' | 'cache' | 'http' | 'rpc' | 'messaging' | 'file';

/** What a call asks, with its literals taken out. */
export interface CallIdentity {
  kind: CallKind;
  /** Equal for calls alike but for their literals. */
  fingerprint: string;
  /** A keyed hash of the literals and parameters; null where none were recorded. */
  literals: number | null;
  /** The application's function, file and line that made the call, as recorded; '' where it was not. */
  origin: string;
  /** Rows returned or affected, where recorded. */
  rows: number | null;
  /** First word of a statement in lower case (`select`, `insert` …), or the operation; '' where there is none. */
  verb: string;
}
