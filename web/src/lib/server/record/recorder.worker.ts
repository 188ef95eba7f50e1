import { mkdir, rm, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { DISK_FULL } from '../ingest/outcome';
import { isDiskFull } from '../evidence/evidence-store';
import type { Place } from './addresses';
import { heapCost, type HeapCost } from './heap-cost';
import { Inspector, InspectorError, listAt } from './inspector';
import { Observation, type Observed, type ObserveOrder } from './observe';
import { recordPage, type PageOrder, type RecordedPage } from './page/record-page';
import { dumpHeap, dumpThreads, factsOf, record, type RecordingOrder, type TargetFacts } from './record';
import type { SamplingCost } from './sampling-cost';

/** Observations that are remembered. */
const MAX_OBSERVATIONS = 20;

export interface FoundTarget extends TargetFacts {
  place: Place;
  title: string;
}

export type RecordOutcome =
  | {
      ok: true;
      file: string;
      startedAtUs: number;
      cpuBefore: number | null;
      cpuDuring: number | null;
      cost: SamplingCost | null;
      handlingUs?: number | null;
      /** Whether it holds several threads, as trace events. */
      isTrace?: boolean;
      stoppedMs?: number;
    }
  | { ok: false; message: string };

/** Recordings run off the server's own thread: a profile may be large, and no request should wait for it. */
class RecorderService {
  readonly #stops = new Map<string, AbortController>();
  /** What was and is looked at from inside, the oldest first: in memory alone, since it holds values of the program. */
  readonly #observations = new Map<string, Observation>();

  /** Looks at a function from inside. */
  async observe(
    id: string,
    place: Place,
    order: ObserveOrder
  ): Promise<{ ok: true } | { ok: false; message: string }> {
    try {
      this.#observations.set(id, await Observation.start(place, order));
    } catch (cause) {
      if (!(cause instanceof InspectorError)) throw cause;
      return { ok: false, message: cause.message };
    }
    for (const [old, { observed }] of this.#observations)
      if (this.#observations.size > MAX_OBSERVATIONS && observed.ended !== '') this.#observations.delete(old);
    return { ok: true };
  }

  /** How far one is; null where it is not known any more. */
  observed(id: string): Promise<Observed | null> {
    return Promise.resolve(this.#observations.get(id)?.observed ?? null);
  }

  /** How many are under way. */
  observing(): Promise<number> {
    const all = [...this.#observations.values()];
    return Promise.resolve(all.filter(({ observed }) => observed.ended === '').length);
  }

  endObservation(id: string): Promise<boolean> {
    const observation = this.#observations.get(id);
    observation?.end();
    return Promise.resolve(observation !== undefined);
  }

  /** Processes whose inspector answers at one of these places. */
  async targets(places: Place[]): Promise<FoundTarget[]> {
    const found = await Promise.all(
      places.map(async (place): Promise<FoundTarget | null> => {
        let inspector: Inspector | undefined;
        try {
          const [listed] = await listAt(place);
          if (!listed) return null;
          inspector = await Inspector.open(place);
          return { place, title: listed.title, ...(await factsOf(inspector)) };
        } catch {
          // Nothing listens there, or it is no Node.js process.
          return null;
        } finally {
          inspector?.close();
        }
      })
    );
    return found.filter((target) => target !== null);
  }

  /** Who the process at a place is; and what a heap dump of it takes, where one is wanted. */
  async facts(
    place: Place,
    kind: RecordingOrder['kind']
  ): Promise<{ ok: true; facts: TargetFacts; heap: HeapCost | null } | { ok: false; message: string }> {
    let inspector: Inspector | undefined;
    try {
      inspector = await Inspector.open(place);
      const facts = await factsOf(inspector);
      return { ok: true, facts, heap: kind === 'heap' ? await heapCost(inspector) : null };
    } catch (cause) {
      if (!(cause instanceof InspectorError)) throw cause;
      return { ok: false, message: cause.message };
    } finally {
      inspector?.close();
    }
  }

  /** Loads a page in a browser, and says what came of it. */
  async page(
    place: Place,
    order: PageOrder,
    script: string
  ): Promise<{ ok: true; page: RecordedPage } | { ok: false; message: string }> {
    try {
      return { ok: true, page: await recordPage(place, order, script) };
    } catch (cause) {
      if (!(cause instanceof InspectorError)) throw cause;
      return { ok: false, message: cause.message };
    }
  }

  /** Records, and writes what came of it to a file of a folder. */
  async record(
    id: string,
    place: Place,
    order: RecordingOrder,
    folder: string,
    maxHeapBytes: number
  ): Promise<RecordOutcome> {
    const stop = new AbortController();
    this.#stops.set(id, stop);
    try {
      if (order.kind === 'heap') return await this.#dump(id, place, folder, maxHeapBytes, stop.signal);
      const { json, ...rest } =
        order.kind === 'threads'
          ? { ...(await dumpThreads(place)), cpuBefore: null, cpuDuring: null, cost: null }
          : await record(place, order, stop.signal, () => undefined);
      if (stop.signal.reason === 'cancel') return { ok: false, message: 'It was cancelled.' };
      await mkdir(folder, { recursive: true });
      const file = path.join(folder, `${id}.part`);
      try {
        await writeFile(file, json);
      } catch (cause) {
        await rm(file, { force: true });
        throw cause;
      }
      return { ok: true, file, ...rest };
    } catch (cause) {
      if (isDiskFull(cause)) return { ok: false, message: DISK_FULL };
      if (!(cause instanceof InspectorError)) throw cause;
      return { ok: false, message: cause.message };
    } finally {
      this.#stops.delete(id);
    }
  }

  async #dump(
    id: string,
    place: Place,
    folder: string,
    maxBytes: number,
    stop: AbortSignal
  ): Promise<RecordOutcome> {
    await mkdir(folder, { recursive: true });
    const file = path.join(folder, `${id}.part`);
    try {
      const { startedAtUs, stoppedMs } = await dumpHeap(place, file, maxBytes, stop);
      return { ok: true, file, startedAtUs, stoppedMs, cpuBefore: null, cpuDuring: null, cost: null };
    } catch (cause) {
      await rm(file, { force: true });
      throw cause;
    }
  }

  /** Ends a recording now. @param how `stop` keeps what there is. */
  end(id: string, how: 'stop' | 'cancel'): Promise<boolean> {
    const stop = this.#stops.get(id);
    stop?.abort(how);
    return Promise.resolve(stop !== undefined);
  }
}
export type { RecorderService };

expose(new RecorderService(), nodeEndpoint(parentPort!));
