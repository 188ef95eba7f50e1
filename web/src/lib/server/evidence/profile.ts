import type { Warning } from '@tromix/core/formats/evidence-error';
import type { EvidenceLabel, KindOnServer } from './kind';

/** A profile whose process and start are not reported may say them by its name. */
export const profileOnServer: KindOnServer<'profile'> = {
  examiner: async () => (await import('./examine/profile')).examineProfile,
  keepsFile: true,
  label(given, { startedAtUs }) {
    const named = nodeProfileName(given.name);
    return {
      ...given,
      pid: given.pid || named.pid,
      startedAtUs: given.startedAtUs ?? named.startedAtUs ?? startedAtUs
    };
  },
  warnings: noRequests
};

/** No request leads to a profile of which it is not known when it began, or of which process it is. */
function noRequests({ startedAtUs, pid, service }: EvidenceLabel): Warning[] {
  const missing = [
    ...(startedAtUs === null ? ['when it began'] : []),
    ...(pid || service ? [] : ['of which process it is'])
  ];
  if (missing.length === 0) return [];
  return [
    {
      code: 'no-requests',
      message: `The profile does not say ${missing.join(' or ')}, so no request leads to it. Send it with its service and start, or under the name Node.js gives it.`,
      count: 1
    }
  ];
}

/** Node names the profiles it writes `CPU.<date>.<time>.<pid>.<thread>.<sequence>.cpuprofile` (Node.js documentation, `--cpu-prof-name`). */
export function nodeProfileName(name: string): { pid: number; startedAtUs: number | null } {
  const found = /^CPU\.(\d{4})(\d\d)(\d\d)\.(\d\d)(\d\d)(\d\d)\.(\d+)\.\d+\.\d+\.cpuprofile/.exec(name);
  if (!found) return { pid: 0, startedAtUs: null };
  const [year, month, day, hour, minute, second, pid] = found.slice(1).map(Number);
  return { pid, startedAtUs: new Date(year, month - 1, day, hour, minute, second).getTime() * 1000 };
}
