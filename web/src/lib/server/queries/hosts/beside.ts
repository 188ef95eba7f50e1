import { greatestOf } from '@tromix/core/counters/lines';
import { COLUMNS, type Line, type MeasureKey } from '@tromix/core/counters/strips';
import type { MsWindow } from '../counters';
import { stepFor } from './hosts';
import { toldBy, type TakingPart } from './taking-part';

/** One counter of a host or of a process over a time. */
export interface BesideLine {
  /** Whose: `quay-2`, or `berths on quay-2`. */
  who: string;
  host: string;
  measure: MeasureKey;
  line: Line;
}

export interface CountersBeside {
  fromMs: number;
  stepMs: number;
  lines: BesideLine[];
}

/** What processes and their hosts told over the time of a picture, hosts first. */
export async function countersBeside(
  processes: readonly TakingPart[],
  { fromMs, toMs }: MsWindow
): Promise<CountersBeside> {
  const stepMs = stepFor({ fromMs, toMs });
  // The bins that hold both ends, whole: of a moment within one the value of its bin is told.
  const window = {
    fromMs: Math.floor(fromMs / stepMs) * stepMs,
    toMs: Math.max(Math.ceil(toMs / stepMs), Math.floor(fromMs / stepMs) + 1) * stepMs
  };
  const toldOf = await toldBy(processes, window, stepMs);
  const told = processes.map((process) => ({ process, ...toldOf(process) }));
  const hosts = new Map(told.map(({ process, ofHost }) => [process.host, ofHost]));
  const named = (
    who: string,
    host: string,
    measures: readonly MeasureKey[],
    of: (measure: MeasureKey) => Line | null
  ): BesideLine[] =>
    measures.flatMap((measure) => {
      const line = of(measure);
      return line === null || greatestOf(line) === null ? [] : [{ who, host, measure, line }];
    });
  return {
    fromMs: window.fromMs,
    stepMs,
    lines: [
      ...[...hosts].flatMap(([host, ofHost]) => named(host, host, HOST_MEASURES, ofHost)),
      ...told.flatMap(({ process, ofProcess }) =>
        named(nameOf(process, processes), process.host, COLUMNS.processes, ofProcess)
      )
    ]
  };
}

/** A service on a host; with its number where it runs there several times. */
function nameOf({ host, service, pid }: TakingPart, all: readonly TakingPart[]): string {
  const alike = all.filter((one) => one.host === host && one.service === service);
  return `${service} on ${host}${alike.length > 1 ? `, pid ${pid}` : ''}`;
}

/** What only a host tells: the rest of its columns are of its processes. */
const HOST_MEASURES: readonly MeasureKey[] = COLUMNS.hosts.filter(
  (measure) => !(COLUMNS.processes as readonly MeasureKey[]).includes(measure)
);
