import { SEVERITIES, severityFrom } from '@tromix/core/formats/otlp/severity';
import { defineParams, flag, integer, oneOf, text, type StateOfSet } from '$lib/ui/frame/params';

export const LEVELS = ['all', ...SEVERITIES.slice(2)] as const;

/** What is looked for among log records; it all stands in the URL. */
export const LOG_PARAMS = defineParams({
  text: text('text'),
  level: oneOf(LEVELS, 'all', 'level'),
  /** Only records that name no trace. */
  outside: flag('outside'),
  /** Number of the record that is shown whole; 0 for none. */
  record: integer(0, 'record')
});
export type LogState = StateOfSet<typeof LOG_PARAMS>;

export const leastSeverity = (level: LogState['level']): number =>
  level === 'all' ? 0 : severityFrom(level);
