import type { StoredSeries } from '../../counters';

/** How a kind of pool tells of itself. */
export interface PoolKind {
  of: 'connections' | 'threads';
  /** Attributes that name a pool. */
  nameBy: readonly string[];
  size: readonly string[];
  used: readonly string[];
  /** Which of the series of what is used count. */
  isUsed: (series: StoredSeries) => boolean;
  waiting: readonly string[];
  /** All its metrics. */
  names: readonly string[];
}

const kind = (of: Omit<PoolKind, 'names'>): PoolKind => ({
  ...of,
  names: [...of.size, ...of.used, ...of.waiting]
});
const always = (): boolean => true;
const stateOf = ({ attributes }: StoredSeries): unknown =>
  attributes.get('db.client.connection.state') ?? attributes.get('state');

/** Connections of database clients by OpenTelemetry's conventions, new and old; pools of threads as runtimes and servers tell of them (from memory). */
export const POOL_KINDS: readonly PoolKind[] = [
  kind({
    of: 'connections',
    nameBy: ['db.client.connection.pool.name', 'pool.name'],
    size: ['db.client.connection.max', 'db.client.connections.max'],
    used: ['db.client.connection.count', 'db.client.connections.usage'],
    isUsed: (series) => stateOf(series) === 'used',
    waiting: ['db.client.connection.pending_requests', 'db.client.connections.pending_requests']
  }),
  kind({
    of: 'threads',
    nameBy: ['name'],
    size: ['executor.pool.max', 'tomcat.threads.config.max'],
    used: ['executor.active', 'tomcat.threads.busy'],
    isUsed: always,
    waiting: ['executor.queued']
  }),
  kind({
    of: 'threads',
    nameBy: [],
    size: [],
    used: ['dotnet.thread_pool.thread.count'],
    isUsed: always,
    waiting: ['dotnet.thread_pool.queue.length']
  })
];

/** What is read of pools. */
export const POOL_NAMES = POOL_KINDS.flatMap(({ names }) => names);
