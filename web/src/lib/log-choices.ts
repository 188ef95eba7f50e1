/** Log records of one trace that its page shows, the first. */
export const MAX_TRACE_LOGS = 2000;
