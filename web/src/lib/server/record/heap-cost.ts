import { setTimeout as sleep } from 'node:timers/promises';
import * as v from 'valibot';
import type { Inspector } from './inspector';

/** What a heap dump asks of a process, as far as it is known before. */
export interface HeapCost {
  objects: number;
  /** Objects were counted; otherwise it is the most there can be. */
  counted: boolean;
  /** What is in its heap, bytes. */
  heapBytes: number;
  /** Free for the process, on its machine or in its container, bytes. */
  freeBytes: number;
  /** For how long it stood still to be counted, milliseconds; 0 where it was not. */
  countMs: number;
  /** For how long it stands still for the dump, milliseconds. */
  ms: { low: number; high: number };
  /** What it takes besides, bytes. */
  bytes: { low: number; high: number };
}

/** An object takes no less: a header and two fields. */
const LEAST_OBJECT_BYTES = 40;
/**
 * Measured on Node.js 20 with 1,000,000 to 4,000,000 objects (small objects, texts, maps), 28 November 2026: 5.2 to 7.3 µs and 570 to 1,430 bytes an object, texts
 * of the dump that wait to be sent included; a heap of 13,000,000 small ones took 11 µs and 300 bytes on another machine.
 */
const MS_EACH = { low: 0.005, high: 0.012 };
const BYTES_EACH = { low: 300, high: 1500 };
/** The dump took 7 to 17 times as long as the first count of the same objects, whatever the machine's speed. */
const COUNTS_EACH = { low: 7, high: 20 };

/** V8 goes through the heap once to number its objects and once to tell how many there are; the first is timed. */
const PASSES = 2;

/** A process that stands still for longer is missed; then somebody has to say so. */
const LONG_MS = 10_000;

/** True where the dump may not fit into memory, or takes so long that somebody has to be sure. */
export const wantsAsking = ({ ms, bytes, freeBytes }: HeapCost): boolean =>
  ms.high >= LONG_MS || bytes.high > freeBytes;

const whole = v.pipe(v.number(), v.finite(), v.minValue(0));
const Memory = v.object({ used: whole, large: whole, free: whole });
/** `require` is there for whoever has the inspector; what it cannot tell is recognised by the process itself. */
const MEMORY = `(() => {
  const { heapUsed } = process.memoryUsage();
  try {
    const spaces = require('node:v8').getHeapSpaceStatistics();
    const large = spaces.filter((one) => one.space_name.includes('large_object')).reduce((sum, one) => sum + one.space_used_size, 0);
    return { used: heapUsed, large, free: process.availableMemory?.() ?? require('node:os').freemem() };
  } catch { return { used: heapUsed, large: 0, free: process.availableMemory?.() ?? 0 }; }
})()`;

/**
 * What a dump of this process will take. From the size of its heap where that is harmless in any case; otherwise its objects are counted, for which it stands still
 * too, for about an eighth of the time.
 * @returns null where the process does not tell.
 */
export async function heapCost(inspector: Inspector): Promise<HeapCost | null> {
  const found = v.safeParse(Memory, await inspector.evaluate(MEMORY));
  if (!found.success) return null;
  const { used, large, free } = found.output;
  const most = Math.ceil(Math.max(0, used - large) / LEAST_OBJECT_BYTES);
  const atMost: HeapCost = {
    objects: most,
    counted: false,
    heapBytes: used,
    freeBytes: free,
    countMs: 0,
    ms: times(most, MS_EACH),
    bytes: times(most, BYTES_EACH)
  };
  if (!wantsAsking(atMost)) return atMost;
  const counted = await countObjects(inspector);
  return counted === null
    ? atMost
    : {
        ...atMost,
        objects: counted.objects,
        counted: true,
        countMs: counted.ms * PASSES,
        ms: longer(times(counted.ms, COUNTS_EACH), times(counted.objects, MS_EACH)),
        bytes: times(counted.objects, BYTES_EACH)
      };
}

const times = (
  count: number,
  { low, high }: { low: number; high: number }
): { low: number; high: number } => ({
  low: count * low,
  high: count * high
});

/** Objects that were numbered before are counted sooner, and take as long as ever to be dumped. */
const longer = (a: HeapCost['ms'], b: HeapCost['ms']): HeapCost['ms'] => ({
  low: Math.max(a.low, b.low),
  high: Math.max(a.high, b.high)
});

/** A large heap takes seconds to be gone through. */
const COUNT_MS = 120_000;
/** V8 tells what it counted about a second later. */
const ANSWER_MS = 30_000;
const UPDATE = /^\s*\{\s*"method"\s*:\s*"HeapProfiler\.heapStatsUpdate"/;
/** Triples: a part of the object ids, its objects, their bytes. */
const Update = v.object({ params: v.object({ statsUpdate: v.array(whole) }) });

/**
 * V8 numbers all objects when it is to track them, and tells how many there are. Source: the domain HeapProfiler of the Chrome DevTools Protocol.
 * @returns null where it is not reported; and how long V8 went through the heap.
 */
async function countObjects(inspector: Inspector): Promise<{ objects: number; ms: number } | null> {
  const parts = new Map<number, number>();
  let isAnswered = (): void => undefined;
  const answered = new Promise<void>((resolve) => (isAnswered = resolve));
  const off = inspector.on((text) => {
    if (!UPDATE.test(text)) return;
    const { statsUpdate } = v.parse(Update, JSON.parse(text)).params;
    for (let i = 0; i + 2 < statsUpdate.length; i += 3) parts.set(statsUpdate[i], statsUpdate[i + 1]);
    isAnswered();
  });
  await inspector.send('HeapProfiler.enable');
  const begun = performance.now();
  await inspector.send('HeapProfiler.startTrackingHeapObjects', { trackAllocations: false }, COUNT_MS);
  const ms = performance.now() - begun;
  await Promise.race([answered, inspector.gone, sleep(ANSWER_MS)]);
  // Ends the tracking, without the dump that its own end would bring.
  await inspector.send('HeapProfiler.disable', {}, COUNT_MS);
  off();
  return parts.size === 0 ? null : { objects: [...parts.values()].reduce((a, b) => a + b, 0), ms };
}
