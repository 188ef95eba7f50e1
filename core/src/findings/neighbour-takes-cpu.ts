import { meanOf } from '../counters/lines';
import { formatDuration, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { BUSY, busyStretch, processWords, timesOf, type FoundOnHost, type HostContext } from './host-finding';

/** A neighbour uses so much of all cores at the least. */
const LEAST_SHARE = 0.3;

/** A process that serves nobody here uses the cores that requests wait for. */
export const neighbourTakesCpu = defineRule({
  rule: 'neighbour-takes-cpu',
  name: 'A neighbour takes the CPU',
  looksFor: 'A busy host on which a process that serves no requests uses a large part of the cores.',
  thresholds: [
    BUSY,
    {
      name: 'of a neighbour',
      value: `${LEAST_SHARE * 100} % of all cores or more`,
      why: 'What takes less is not why the host is full.'
    }
  ],
  why: 'The services on the host do what they always do, and wait for a core while the neighbour runs.',
  doThis: [
    'Let it run elsewhere, or at another time.',
    'Limit what it may use, or give it a lower priority.'
  ],
  seeAlso: 'profile',
  find
});

function find(context: HostContext): FoundOnHost[] {
  const { cores, slowerWhileBusy, host } = context;
  const line = context.lines.cpu;
  const stretch = busyStretch(line);
  if (!line || !stretch || cores === null) return [];
  const processes = context.processesIn(stretch);
  if (!processes.some(({ service }) => service)) return [];
  const level = meanOf(line, ...stretch)!;
  const times = timesOf(context, stretch);
  const lasted = formatDuration((times.toMs - times.fromMs) * 1e6);
  return processes
    .filter((process) => process.service === '' && (process.cores ?? 0) >= LEAST_SHARE * cores)
    .slice(0, 1)
    .map((process): FoundOnHost => {
      const [waits] = processes
        .filter(({ service, waits: of }) => service !== '' && of !== null)
        .sort((a, b) => b.waits! - a.waits!);
      const waited = waits
        ? ` ${waits.service} waited for a core for ${formatShare(waits.waits!)} of that time.`
        : '';
      const [slowest] = slowerWhileBusy;
      const took = slowest
        ? ` Requests of ${slowest.service} took ${slowest.ratio.toFixed(1)} times as long as on other hosts meanwhile.`
        : '';
      return {
        title: 'A neighbour takes the CPU',
        severity: slowest || (waits?.waits ?? 0) >= 0.1 ? 'high' : 'medium',
        sentence: `${processWords(process)} used ${process.cores!.toFixed(2)} of ${cores} cores of ${host} for ${lasted}, and serves no requests.${waited}${took}`,
        remedy: 'Move it, limit it, or let it run when nobody waits.',
        figures: {
          cores: process.cores,
          share: level,
          waits: waits?.waits ?? null,
          ratio: slowest?.ratio ?? null
        },
        ...times,
        pid: process.pid,
        ...(slowest ? { service: slowest.service } : waits ? { service: waits.service } : {})
      };
    });
}
