import { formatDuration, formatShare } from '@tromix/core/text/format';
import { isDump } from '$lib/evidence/recorded-kind';
import type { Recording, StoredPlan } from '$lib/server/queries/recordings';

/** A process whose inspector answers. */
export interface Target {
  address: string;
  title: string;
  pid: number;
  service: string;
  host: string;
  release: string;
  development: boolean;
}

/** A process that is looked for. */
export interface WantedProcess {
  /** '' for any. */
  host: string;
  service: string;
  /** 0 where its id is not known: then the only one of its service. */
  pid: number;
}

/** The process that is looked for, among those that can be recorded: by its id, else the only one of its service. */
export function wantedTarget(
  found: readonly Target[],
  { host, service, pid }: WantedProcess
): Target | undefined {
  const here = found.filter((one) => host === '' || one.host === host);
  if (pid > 0) return here.find((one) => one.pid === pid);
  const ofService = here.filter((one) => one.service === service);
  return ofService.length === 1 ? ofService[0] : undefined;
}

/** The process of a recording. */
export const nameOf = (recording: Pick<Recording, 'service' | 'pid'>): string =>
  `${recording.service || 'a process'}${recording.pid ? ` ${recording.pid}` : ''}`;
export const KIND_WORDS: Record<Recording['kind'], string> = {
  cpu: 'CPU samples',
  allocation: 'allocations',
  heap: 'heap dump',
  threads: 'thread dump'
};
/** What was sampled, and what it cost; a dump says how long it stopped the process. */
export const costWords = (recording: Recording): string =>
  isDump(recording.kind) ? '' : [samplingWords(recording), usedWords(recording)].join(' ').trim();
function samplingWords({ costLow, costHigh }: Recording): string {
  if (costLow === null || costHigh === null) return 'What it cost could not be measured.';
  if (costHigh <= 0) return 'The same work took no longer while it was sampled.';
  return costLow <= 0
    ? `The same work took at most ${formatShare(costHigh)} longer while it was sampled.`
    : `The same work took ${formatShare(costLow)} to ${formatShare(costHigh)} longer while it was sampled.`;
}
function usedWords({ cpuBefore, cpuDuring }: Recording): string {
  if (cpuBefore === null || cpuDuring === null) return '';
  return `All its threads used ${formatShare(cpuBefore)} of a core in the second before, ${formatShare(cpuDuring)} meanwhile.`;
}
/** A plan as a sentence. @param watches names of watches by their ids */
export function planWords({ plan }: StoredPlan, watches: Readonly<Record<string, string>> = {}): string {
  const what = `${KIND_WORDS[plan.kind]} of ${plan.address}${isDump(plan.kind) ? '' : ` for ${formatDuration(plan.seconds * 1e9)}`}`;
  if (plan.when.by === 'always') {
    const { everyMinutes, budget, inTurn } = plan.when;
    const whose = inTurn ? `the processes of ${inTurn}, one after another` : plan.address;
    const each = `${formatDuration(plan.seconds * 1e9)} of every ${formatDuration(everyMinutes * 60e9)}`;
    const ended = plan.note ? ` ${plan.note}` : '';
    return `CPU samples of ${whose} all the time, ${each}, for at most ${formatShare(budget)} of a core.${ended}`;
  }
  return plan.when.by === 'time'
    ? `${what}, every ${formatDuration(plan.when.everyMinutes * 60e9)}, keep ${plan.keep}`
    : `${what}, while the watch “${watches[plan.when.watch] ?? 'that is not here any more'}” is on, keep ${plan.keep}`;
}
