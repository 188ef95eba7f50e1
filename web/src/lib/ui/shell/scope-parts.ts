import { namedHost, type Scope, type TimeWindow } from '$lib/scope';
import type { NamedRun } from '$lib/server/queries/load-runs';
import type { Names } from '$lib/server/queries/names';
import { shortTime, timeRange } from '$lib/ui/kit/time';

/** A choice in the scope sentence. */
export interface ScopeChoice {
  /** What is chosen now, as it stands in the sentence. */
  shown: string;
  /** What the choice is about, for its menu. */
  about: string;
  options: { label: string; detail?: string; value: string }[];
  /** How many more there are than are offered. */
  more?: number;
  value: string;
}

/** A part of the scope sentence that changes the scope. */
export interface ScopePart extends ScopeChoice {
  /** Words before it. */
  before: string;
  /** The time range: it is chosen in a menu of its own. */
  window?: TimeWindow;
  choose: (value: string) => Partial<Scope>;
}

export type Which = 'subject' | 'service' | 'endpoint' | 'host' | 'release' | 'time' | 'slower' | 'run';

const SLOWER = [100, 250, 500, 1000, 2000, 5000];

const runName = (runs: readonly NamedRun[], id: number): string =>
  runs.some((run) => run.id === id) ? `load run ${id}` : `load run ${id} (not there)`;

const hostWords = (scope: Scope): string => {
  const { name, but } = namedHost(scope);
  return name === '' ? 'every host' : but ? `every host but ${name}` : name;
};

/** The scope as one English sentence, each part of it changeable. */
export function scopeParts(
  which: readonly Which[],
  scope: Scope,
  names: Names,
  window: TimeWindow,
  nowMs: number,
  runs: readonly NamedRun[] = []
): ScopePart[] {
  const parts: Record<Which, () => ScopePart> = {
    subject: () => ({ before: '', shown: 'requests', about: '', options: [], value: '', choose: () => ({}) }),
    service: () => ({
      before: which.includes('endpoint') ? 'of' : 'Looking at',
      shown: scope.service || 'every service',
      about: 'Service',
      options: [
        { label: 'every service', value: '' },
        ...names.services.map((name) => ({ label: name, value: name }))
      ],
      more: names.more.services,
      value: scope.service,
      choose: (service) => ({ service, endpoint: '' })
    }),
    endpoint: () => ({
      before: 'Looking at requests to',
      shown: scope.endpoint || 'every endpoint',
      about: 'Endpoint',
      options: [
        { label: 'every endpoint', value: '' },
        ...names.endpoints.map(({ service, name }) => ({
          label: name,
          detail: service,
          value: JSON.stringify([service, name])
        }))
      ],
      more: names.more.endpoints,
      value: scope.endpoint ? JSON.stringify([scope.service, scope.endpoint]) : '',
      choose: (value) => {
        if (value === '') return { endpoint: '' };
        const [service, endpoint] = JSON.parse(value) as [string, string];
        return { service, endpoint };
      }
    }),
    host: () => ({
      before: 'on',
      shown: hostWords(scope),
      about: 'Host',
      options: [
        { label: 'every host', value: '' },
        ...names.hosts.map((name) => ({ label: name, value: name }))
      ],
      more: names.more.hosts,
      value: scope.host,
      choose: (host) => ({ host })
    }),
    release: () => ({
      before: scope.release ? ', release' : ',',
      shown: scope.release || 'every release',
      about: 'Release',
      options: [
        { label: 'every release', value: '' },
        ...names.releases.map((name) => ({ label: name, value: name }))
      ],
      more: names.more.releases,
      value: scope.release,
      choose: (release) => ({ release })
    }),
    time: () => ({
      before: ', from',
      shown: timeRange(window.fromUs / 1000, window.toUs / 1000, nowMs),
      about: 'Time',
      options: [],
      value: '',
      window,
      choose: () => ({})
    }),
    slower: () => ({
      before: ',',
      shown: scope.slower === undefined ? 'of any duration' : `slower than ${scope.slower} ms`,
      about: 'Duration',
      options: [
        { label: 'of any duration', value: '' },
        ...SLOWER.map((ms) => ({ label: `slower than ${ms} ms`, value: String(ms) }))
      ],
      value: scope.slower === undefined ? '' : String(scope.slower),
      choose: (value) => ({ slower: value === '' ? undefined : Number(value) })
    }),
    run: () => ({
      before: ', caused by',
      shown: scope.run === undefined ? 'anyone' : runName(runs, scope.run),
      about: 'Load run',
      options: [
        { label: 'anyone', value: '' },
        ...runs.map((run) => ({
          label: `load run ${run.id}`,
          detail: `${run.name}, ${shortTime(run.startedAtUs / 1000)}`,
          value: String(run.id)
        }))
      ],
      value: scope.run === undefined ? '' : String(scope.run),
      choose: (value) => ({ run: value === '' ? undefined : Number(value) })
    })
  };
  // Where there was no load run it is nothing to choose.
  return which
    .filter((name) => name !== 'run' || runs.length > 0 || scope.run !== undefined)
    .map((name) => parts[name]());
}
