import { Worker } from 'node:worker_threads';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { Thread } from './thread';

/** A service that answers, dies by a fault, or ends. */
const CODE = `
  const { parentPort } = require('node:worker_threads');
  const { expose } = require('comlink');
  const nodeEndpoint = require('comlink/dist/umd/node-adapter');
  expose({
    add: (a, b) => a + b,
    refuse: () => { throw new Error('not today'); },
    fault: () => new Promise(() => setTimeout(() => { throw new Error('broken'); }, 5)),
    end: () => new Promise(() => process.exit(3)),
    never: () => { for (;;); }
  }, nodeEndpoint(parentPort));
`;
interface Service {
  add(a: number, b: number): Promise<number>;
  refuse(): Promise<void>;
  fault(): Promise<void>;
  end(): Promise<void>;
  never(): Promise<void>;
}

let started: Worker[] = [];
function thread(ready: (service: Service) => Promise<void> = () => Promise.resolve()): Thread<Service> {
  return new Thread<Service>('counter', () => {
    const worker = new Worker(CODE, { eval: true });
    started.push(worker);
    return { thread: worker, ready };
  });
}
afterEach(async () => {
  await Promise.all(started.map((worker) => worker.terminate()));
  started = [];
});

describe('Thread', () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined);

  it('is started by the first call and answers all of them', async () => {
    const one = thread();
    expect(started).toHaveLength(0);
    expect(await Promise.all([1, 2, 3].map((n) => one.call((service) => service.add(n, n))))).toEqual([
      2, 4, 6
    ]);
    expect(started).toHaveLength(1);
  });

  it('passes on what the service refuses, and goes on', async () => {
    const one = thread();
    await expect(one.call((service) => service.refuse())).rejects.toThrow('not today');
    expect(await one.call((service) => service.add(1, 1))).toBe(2);
    expect(started).toHaveLength(1);
  });

  it.each(['fault', 'end'] as const)(
    'fails every call under way when it dies by %s, and is started again',
    async (way) => {
      const one = thread();
      await one.call((service) => service.add(1, 1));
      const deadly = [one.call((service) => service[way]()), one.call((service) => service[way]())];
      for (const { status } of await Promise.allSettled(deadly)) expect(status).toBe('rejected');
      expect(await one.call((service) => service.add(2, 3))).toBe(5);
      expect(started).toHaveLength(2);
    }
  );

  it('is ended by a call that takes longer than it may, and started again', async () => {
    const one = thread();
    await one.call((service) => service.add(1, 1));
    const ended = vi.fn();
    one.onended = ended;
    await expect(one.call((service) => service.never(), 200)).rejects.toMatchObject({
      calls: 1,
      oldest: true
    });
    expect(ended).toHaveBeenCalledOnce();
    expect(await one.call((service) => service.add(2, 3), 5000)).toBe(5);
    expect(started).toHaveLength(2);
  });

  it('says which call had waited longest when it died', async () => {
    const one = thread();
    await one.call((service) => service.add(1, 1));
    const calls = [one.call((service) => service.fault()), one.call((service) => service.fault())];
    const causes = (await Promise.allSettled(calls)).map(
      (result) => (result as PromiseRejectedResult).reason as object
    );
    expect(causes).toMatchObject([
      { calls: 2, oldest: true },
      { calls: 2, oldest: false }
    ]);
  });

  it('is tried again by the next call where it could not get ready', async () => {
    let tries = 0;
    const one = thread(async (service) => {
      if (++tries === 1) await service.refuse();
    });
    await expect(one.call((service) => service.add(1, 1))).rejects.toThrow('not today');
    expect(await one.call((service) => service.add(1, 1))).toBe(2);
  });
});
