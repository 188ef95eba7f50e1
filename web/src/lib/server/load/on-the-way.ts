import type { LoadPlan } from '@tromix/core/load/plan';
import { recordingState } from '../queries/recordings';
import { allowedPlace } from '../record/addresses';
import { endRecording, startRecording } from '../record/recorder';
import { settings } from '../settings';
import type { RunRecording } from './run-order';

/** Recordings made while a load run goes on. */
export interface OnTheWay {
  ids: string[];
  /** What could not be recorded; '' for nothing. */
  message: string;
  /** Ends those under way, and takes the heap dumps of afterwards. */
  finish: () => Promise<{ ids: string[]; message: string }>;
}

const CPU_INTERVAL_US = 1000;
/** A profile of a run whose length is not known ends with it, or after so long. */
const LONGEST_SECONDS = 600;
/** A heap dump is waited for so long before and after a run. */
const DUMP_MS = 120_000;
const LOOK_MS = 200;

/** Starts what is to be recorded: heap dumps are over before the run begins, profiles go on beside it. */
export async function recordDuring(wanted: readonly RunRecording[], plan: LoadPlan): Promise<OnTheWay> {
  const cpu = wanted.filter(({ what }) => what === 'cpu');
  const heap = wanted.filter(({ what }) => what === 'heap');
  const seconds = Math.min(LONGEST_SECONDS, Math.ceil(plan.seconds) || LONGEST_SECONDS);
  const before = await startAll(heap, 'heap', 1);
  await Promise.all(before.ids.map(over));
  const during = await startAll(cpu, 'cpu', seconds);
  // What the processes do under load is seen once there is some.
  const threads = wanted.filter(({ what }) => what === 'threads');
  const dumped: Awaited<ReturnType<typeof startAll>> = { ids: [], failed: [] };
  const timer = setTimeout(() => {
    void startAll(threads, 'threads', 1).then(({ ids, failed }) => {
      dumped.ids.push(...ids);
      dumped.failed.push(...failed);
    });
  }, crowdedMs(plan));
  return {
    ids: [...before.ids, ...during.ids],
    message: [...before.failed, ...during.failed].join(' '),
    finish: async () => {
      clearTimeout(timer);
      await Promise.all(during.ids.map((id) => endRecording(id, 'stop')));
      const after = await startAll(heap, 'heap', 1);
      await Promise.all([...during.ids, ...dumped.ids, ...after.ids].map(over));
      return {
        ids: [...before.ids, ...during.ids, ...dumped.ids, ...after.ids],
        message: [...dumped.failed, ...after.failed].join(' ')
      };
    }
  };
}

/** When a run is at its full load: soon after its ramp-up. */
const crowdedMs = ({ rampUpSeconds }: LoadPlan): number => rampUpSeconds * 1000 + 1000;

async function startAll(
  wanted: readonly RunRecording[],
  kind: 'cpu' | 'heap' | 'threads',
  seconds: number
): Promise<{ ids: string[]; failed: string[] }> {
  const ids: string[] = [];
  const failed: string[] = [];
  for (const { address } of wanted) {
    const place = allowedPlace(address, settings().inspectPlaces);
    const started =
      'refused' in place
        ? { ok: false as const, message: place.refused }
        : await startRecording(place, { kind, seconds, interval: CPU_INTERVAL_US });
    if (started.ok) ids.push(started.id);
    else failed.push(`${address} was not recorded: ${started.message}`);
  }
  return { ids, failed };
}

/** Waits until a recording is saved, or has failed. */
async function over(id: string): Promise<void> {
  const end = Date.now() + DUMP_MS;
  while (Date.now() < end) {
    const state = await recordingState(id);
    if (state !== 'recording' && state !== 'saving') return;
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
  }
}
