import { measureText } from '@tromix/core/counters/measure-words';
import type { MeasureKey } from '@tromix/core/counters/strips';
import type { HostProcess } from '@tromix/core/findings/host-finding';
import { groupBy } from '@tromix/core/group-by';
import { formatBytes, formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { OneHost } from '$lib/server/queries/hosts/one/one-host';
import type { OddMeasure, Strips } from '$lib/server/queries/hosts/hosts';

/** What a measure is called within a sentence. */
const NAMES: Record<MeasureKey, string> = {
  cpu: 'CPU',
  cores: 'CPU',
  memory: 'memory',
  resident: 'memory',
  disk: 'disk use',
  loop: 'event loop (p99)',
  pauses: 'collector',
  waiting: 'pool queue'
};

/** The row that stands out most, in one sentence; null where none does. */
export function oddSentence({ rows, odd, stepMs, kind }: Strips): Words | null {
  const [first] = odd;
  if (!first) return null;
  const { row, measure, level, others, from, to } = first;
  const lasted = formatDuration((to - from) * stepMs * 1e6);
  const range =
    rows.length === 2 || others[0] === others[1]
      ? `the other’s at ${measureText(measure, others[1])}`
      : `the others’ at ${measureText(measure, others[0])} to ${measureText(measure, others[1])}`;
  const more = kind === 'hosts' ? '' : ` (${rows[row].about})`;
  return words`${[rows[row].name]}${more} is the odd one: its ${NAMES[measure]} stood at ${[measureText(measure, level)]} for ${lasted}, ${range}.`;
}

/** What else stands out, shortly: of each row and measure the longest stretch. */
export function alsoOdd({ rows, odd, stepMs }: Strips): string[] {
  const [first, ...others] = [...groupBy(odd, ({ row, measure }) => `${row} ${measure}`).values()].map(
    ([longest]) => longest
  );
  return first
    ? others
        .slice(0, 3)
        .map(
          ({ row, measure, level, from, to }: OddMeasure) =>
            `${rows[row].name}: ${NAMES[measure]} at ${measureText(measure, level)} for ${formatDuration((to - from) * stepMs * 1e6)}.`
        )
    : [];
}

/** What used the cores of a host, in one sentence; null where it is not told. */
export function usedSentence({ host, cores, processes }: OneHost): Words | null {
  const [most] = processes;
  const sum = processes.reduce((all, { cores: used }) => all + (used ?? 0), 0);
  if (!most || most.cores === null || sum <= 0) return null;
  const serves = most.service
    ? `, which serves ${most.service} ${most.release}`
    : ', which serves no requests';
  const of = cores === null ? '' : ` of ${cores}`;
  return words`${[formatShare(most.cores / sum)]} of the CPU time told of processes on ${host} is that of ${[most.name]}${serves}: on average ${most.cores.toFixed(2)}${of} cores over the time shown.`;
}

/** Percent of one core, as process lists of systems have it (common practice). */
export const corePercent = (cores: number | null): string =>
  cores === null
    ? '–'
    : cores > 0 && cores < 0.001
      ? '< 0.1 %'
      : `${(cores * 100).toFixed(cores < 0.1 ? 1 : 0)} %`;

export const rateText = (bytes: number | null): string =>
  bytes === null ? '–' : bytes < 1 ? '0' : `${formatBytes(bytes)}/s`;

/** What is known of a process beside its figures. */
export const processFacts = (process: HostProcess): [string, string][] =>
  (
    [
      ['owner', process.owner],
      [
        'started',
        process.startedMs === null
          ? ''
          : new Date(process.startedMs).toISOString().slice(0, 19).replace('T', ' ')
      ],
      ['parent', process.parentPid === null ? '' : `pid ${process.parentPid}`],
      ['open files', process.openFiles === null ? '' : formatCount(Math.round(process.openFiles))]
    ] as [string, string][]
  ).filter(([, value]) => value !== '');
