/** Short names of severities, by the first number of each (OpenTelemetry, Logs Data Model, "Displaying Severity"). */
const NAMES: readonly [from: number, name: Severity][] = [
  [21, 'fatal'],
  [17, 'error'],
  [13, 'warn'],
  [9, 'info'],
  [5, 'debug'],
  [1, 'trace']
];
export const SEVERITIES = ['trace', 'debug', 'info', 'warn', 'error', 'fatal'] as const;
export type Severity = (typeof SEVERITIES)[number];

/** The name of an OTLP `SeverityNumber`; '' for 0, which says nothing. */
export const severityName = (severity: number): Severity | '' =>
  NAMES.find(([from]) => severity >= from)?.[1] ?? '';

/** The number from which severities have this name or a graver one. */
export const severityFrom = (name: Severity): number => NAMES.find(([, known]) => known === name)![0];
