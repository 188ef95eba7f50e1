import { expect, it } from 'vitest';
import { Once } from './once';

it('works out once what is asked for at the same time and later, and anew after it was forgotten or failed', async () => {
  let runs = 0;
  let fails = true;
  const once = new Once(async () => {
    runs++;
    await Promise.resolve();
    if (fails) throw new Error('not now');
    return runs;
  });
  expect(once.asked).toBe(false);
  const both = await Promise.allSettled([once.get(), once.get()]);
  expect(both.map(({ status }) => status)).toEqual(['rejected', 'rejected']);
  expect([runs, once.asked]).toEqual([1, false]);
  fails = false;
  expect(await Promise.all([once.get(), once.get()])).toEqual([2, 2]);
  once.forget();
  expect(await once.get()).toBe(3);
});
