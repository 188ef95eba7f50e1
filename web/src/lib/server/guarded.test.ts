import { beforeEach, describe, expect, it, vi } from 'vitest';
import { ThreadEnded } from './thread';

/** What the writer was told, and what it says of it: set aside at the second time. */
const told = vi.hoisted(() => ({ deaths: [] as string[], again: [] as string[] }));
vi.mock('./workers', () => ({
  callWriter: (work: (writer: object) => Promise<unknown>) =>
    work({
      noteDeath: ({ kind, id }: { kind: string; id: string }) => {
        told.deaths.push(`${kind} ${id}`);
        return Promise.resolve(told.deaths.filter((one) => one === `${kind} ${id}`).length >= 2);
      },
      retry: (kind: string, id: string) => {
        told.again.push(`${kind} ${id}`);
        return Promise.resolve();
      }
    })
}));
vi.mock('./db/reader', () => ({ selectJson: () => Promise.resolve(['file known-before']) }));
const { guarded, NotTried, tryAgain } = await import('./guarded');
const { GuardedReads } = await import('./db/guarded-reads');

beforeEach(() => {
  told.deaths.length = 0;
});
const dies = (calls = 1): Promise<never> =>
  Promise.reject(new ThreadEnded('The thread examiner ended: out of memory', calls, true, null));

describe('work in a thread', () => {
  const file = (id: string) => ({ kind: 'file' as const, id, name: 'plan.cpuprofile' });

  it('that the thread dies of twice is not tried a third time, until somebody says so', async () => {
    for (let i = 0; i < 2; i++)
      await expect(guarded(file('a'), () => dies())).rejects.toBeInstanceOf(ThreadEnded);
    const work = vi.fn(() => Promise.resolve(1));
    await expect(guarded(file('a'), work)).rejects.toBeInstanceOf(NotTried);
    expect(work).not.toHaveBeenCalled();
    expect(await guarded(file('b'), work)).toBe(1);
    await tryAgain('file', 'a');
    expect(told.again).toEqual(['file a']);
    expect(await guarded(file('a'), work)).toBe(1);
  });

  it('is not blamed where other work was under way, nor for faults of its own', async () => {
    await expect(guarded(file('c'), () => dies(3))).rejects.toBeInstanceOf(ThreadEnded);
    await expect(guarded(file('c'), () => Promise.reject(new Error('no such file')))).rejects.toThrow(
      'no such file'
    );
    expect(told.deaths).toEqual([]);
  });

  it('that was set aside before the server started stays so', async () => {
    await expect(guarded(file('known-before'), () => Promise.resolve(1))).rejects.toBeInstanceOf(NotTried);
  });
});

describe('a question to the database', () => {
  it('that the reading thread dies of twice is refused in words; others are answered', async () => {
    const deadly = 'SELECT everything';
    const database = new GuardedReads({
      query: (sql) => (sql === deadly ? dies() : Promise.resolve({ columns: ['one'], rows: [[1]] })),
      write: () => Promise.resolve(),
      close: () => Promise.resolve()
    });
    for (let i = 0; i < 2; i++) await expect(database.query(deadly, [7])).rejects.toBeInstanceOf(ThreadEnded);
    await expect(database.query(deadly, [7])).rejects.toThrow(
      'is not tried again until the server is started anew'
    );
    await expect(database.query(deadly, [8])).rejects.toBeInstanceOf(ThreadEnded);
    expect((await database.query('SELECT 1')).rows).toEqual([[1]]);
  });
});
