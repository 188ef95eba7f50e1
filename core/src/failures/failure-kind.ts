/** What tells of a failure. */
export const FAILURE_KINDS = {
  exception: 'exceptions',
  answer: 'answers and calls that failed without one',
  log: 'errors in logs',
  crash: 'crashes'
} as const;
export type FailureKind = keyof typeof FAILURE_KINDS;

/** What tells of a failure in a trace: an exception has a type, what a log alone tells has only words. */
export const kindOfFailure = (exception: { type: string } | null): FailureKind =>
  exception === null ? 'answer' : exception.type ? 'exception' : 'log';
