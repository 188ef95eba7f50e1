import { setTimeout as sleep } from 'node:timers/promises';
import * as v from 'valibot';
import type { Inspector } from './inspector';

/** By how much longer the same work takes while a process is recorded: parts of one, the middle half of the rounds. */
export interface SamplingCost {
  low: number;
  high: number;
}

/** Rounds each way; before them as many as it takes for the work to be compiled. */
const ROUNDS = 9;
const WARM_UP = 12;
/** Between rounds the program gets on with its own work. */
const PAUSE_MS = 5;

/**
 * A piece of work of a few milliseconds below a stack as deep as a request's: calls, arithmetic and, for samples of allocation, objects. It leaves
 * nothing behind in the process.
 */
const WORK = `(() => {
  const step = (i, kept) => { kept.push({ i, next: kept[i & 63] }); return Math.sqrt(i); };
  const work = (rounds) => { let kept = [], sum = 0; for (let i = 0; i < rounds; i++) { if ((i & 1023) === 0) kept = []; sum += step(i, kept); } return sum; };
  const below = (depth, rounds) => (depth > 0 ? below(depth - 1, rounds) : work(rounds));
  return () => { const begun = performance.now(); below(30, 30000); return performance.now() - begun; };
})()`;

const Made = v.object({ result: v.object({ result: v.object({ objectId: v.string() }) }) });
const Timed = v.object({
  result: v.object({ result: v.object({ value: v.pipe(v.number(), v.finite(), v.minValue(0)) }) })
});

/**
 * Does the same work without and with sampling, and tells how much longer it took. The samples of it are not kept.
 * @param start, stop turn sampling on and off as the recording will.
 * @returns null where the process cannot be measured.
 */
export async function samplingCost(
  inspector: Inspector,
  start: () => Promise<unknown>,
  stop: () => Promise<unknown>
): Promise<SamplingCost | null> {
  const made = v.safeParse(Made, JSON.parse(await inspector.send('Runtime.evaluate', { expression: WORK })));
  if (!made.success) return null;
  const { objectId } = made.output.result.result;
  const once = async (): Promise<number> => {
    const reply = await inspector.send('Runtime.callFunctionOn', {
      objectId,
      functionDeclaration: 'function () { return this(); }',
      returnByValue: true
    });
    return v.parse(Timed, JSON.parse(reply)).result.result.value;
  };
  const rounds = async (count: number): Promise<number[]> => {
    const times: number[] = [];
    for (let i = 0; i < count; i++) {
      times.push(await once());
      await sleep(PAUSE_MS);
    }
    return times;
  };
  try {
    await rounds(WARM_UP);
    const without = await rounds(ROUNDS);
    await start();
    // V8 looks at all code when it begins: that is paid once, and not for each sample.
    await rounds(WARM_UP);
    const during = await rounds(ROUNDS);
    await stop();
    return longerBy(without, during);
  } catch (cause) {
    if (v.isValiError(cause)) return null;
    throw cause;
  } finally {
    await inspector.send('Runtime.releaseObject', { objectId }).catch(() => undefined);
  }
}

/** Each quarter of one against the middle of the other: a round that something else disturbed counts for little. */
export function longerBy(without: readonly number[], during: readonly number[]): SamplingCost | null {
  const [base, sorted] = [without, during].map((times) => times.toSorted((a, b) => a - b));
  const middle = base[base.length >> 1];
  if (!(middle > 0) || sorted.length === 0) return null;
  const against = (time: number): number => time / middle - 1;
  return {
    low: against(sorted[sorted.length >> 2]),
    high: against(sorted[Math.ceil(sorted.length * 0.75) - 1])
  };
}
