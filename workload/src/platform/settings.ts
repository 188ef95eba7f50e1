/** The faults planted in Quillhaven; each can be switched off ("fixed"). */
export const FAULTS = [
  'query-per-row',
  'thrown-for-control',
  'slow-ranking',
  'lock-queue',
  'unbounded-cache',
  'chatty-remote',
  'row-by-row-writes',
  'slow-host',
  'kept-connections',
  'cold-start',
  'berth-conflict',
  'flaky-gauge',
  'watch-by-number',
  'endless-agents',
  'charts-before-paint',
  'late-picture',
  'tides-in-one-task',
  'tide-by-tide'
] as const;

export type ServiceName = 'gateway' | 'berths' | 'tides' | 'manifests' | 'pilots';

/** What a service process is recognised by its environment. */
export interface Settings {
  service: ServiceName;
  host: string;
  release: string;
  port: number;
  /** Service → the addresses it answers at. */
  peers: Record<string, string[]>;
  faults: ReadonlySet<string>;
  dataFolder: string;
  otlpEndpoint: string;
  otlpEncoding: 'protobuf' | 'json';
  /** Where pages tell of their loads, without `/collect`; '' for nowhere. */
  collect: string;
}

export function settingsFromEnvironment(env: NodeJS.ProcessEnv): Settings {
  const need = (name: string): string => {
    const value = env[name];
    if (!value) throw new Error(`The environment variable ${name} is not set.`);
    return value;
  };
  return {
    service: need('QH_SERVICE') as ServiceName,
    host: need('QH_HOST'),
    release: need('QH_RELEASE'),
    port: Number(need('QH_PORT')),
    peers: JSON.parse(need('QH_PEERS')) as Record<string, string[]>,
    faults: new Set(need('QH_FAULTS').split(',')),
    dataFolder: need('QH_DATA'),
    otlpEndpoint: need('QH_OTLP'),
    collect: env.QH_COLLECT ?? '',
    otlpEncoding: env.QH_OTLP_ENCODING === 'json' ? 'json' : 'protobuf'
  };
}
