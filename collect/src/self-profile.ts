import type { Config } from './config';

/** The JS Self-Profiling API, as far as it is used here; no library of types has it yet. */
interface Profiler {
  stop(): Promise<object>;
}
type ProfilerClass = new (options: { sampleInterval: number; maxBufferSize: number }) => Profiler;

const INTERVAL_MS = 10;
/** Samples: a page that takes longer to load is told up to here. */
const MAX_SAMPLES = 1500;

/** Begins a profile where the browser has it and the page allows it (`Document-Policy: js-profiling`); null elsewhere. */
export function startProfile({ profileShare }: Config): Profiler | null {
  const { Profiler } = window as { Profiler?: ProfilerClass };
  if (!Profiler || Math.random() >= profileShare) return null;
  try {
    return new Profiler({ sampleInterval: INTERVAL_MS, maxBufferSize: MAX_SAMPLES });
  } catch {
    return null;
  }
}
