import { metrics } from '@opentelemetry/api';
import { inSpan } from './telemetry';

/** Bounds of the waits, seconds, as the conventions of database clients advise. */
const WAIT_BOUNDS_S = [0.001, 0.005, 0.01, 0.05, 0.1, 0.5, 1, 5, 10];

/**
 * Connections to a database: so many at once, who comes later queues in order. Tells its size, its use and its queue as OpenTelemetry's conventions
 * for database clients name them; a wait is a span too.
 */
export class Pool {
  readonly #name: string;
  readonly #size: number;
  readonly #queue: (() => void)[] = [];
  #used = 0;
  readonly #waits;

  constructor(name: string, size: number) {
    this.#name = name;
    this.#size = size;
    const meter = metrics.getMeter('quillhaven');
    const of = { 'db.client.connection.pool.name': name };
    const gauge = (metric: string, unit: string, read: () => number, attributes = {}): void =>
      meter
        .createObservableUpDownCounter(metric, { unit })
        .addCallback((result) => result.observe(read(), { ...of, ...attributes }));
    gauge('db.client.connection.max', '{connection}', () => size);
    gauge('db.client.connection.pending_requests', '{request}', () => this.#queue.length);
    const state = (value: string): object => ({ 'db.client.connection.state': value });
    gauge('db.client.connection.count', '{connection}', () => this.#used, state('used'));
    gauge('db.client.connection.count', '{connection}', () => size - this.#used, state('idle'));
    this.#waits = meter.createHistogram('db.client.connection.wait_time', {
      unit: 's',
      advice: { explicitBucketBoundaries: WAIT_BOUNDS_S }
    });
  }

  /** Works while holding a connection. */
  async hold<T>(work: () => Promise<T>): Promise<T> {
    const begunMs = performance.now();
    if (this.#used < this.#size) this.#used++;
    else await this.#wait();
    this.#waits.record((performance.now() - begunMs) / 1000, {
      'db.client.connection.pool.name': this.#name
    });
    try {
      return await work();
    } finally {
      const next = this.#queue.shift();
      // Who waits longest gets the connection as it is given back.
      if (next) next();
      else this.#used--;
    }
  }

  async #wait(): Promise<void> {
    const attributes = {
      'db.system.name': 'sqlite',
      'db.client.connection.pool.name': this.#name,
      'db.client.connection.max': this.#size
    };
    await inSpan('pool.acquire', attributes, () => new Promise<void>((resolve) => this.#queue.push(resolve)));
  }
}
