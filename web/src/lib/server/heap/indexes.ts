import { mkdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { publish } from '../live';
import { settings } from '../settings';
import { EvidenceStore } from '../evidence/evidence-store';
import { guarded, NotTried, tryAgain } from '../guarded';
import { callHeapIndexer, change } from '../workers';
import type { HeapPlace } from './heap.worker';
import { DOING, indexFolder, isIndexed } from './index-files';

/** How far the index of a dump is. */
export type IndexState =
  | { state: 'ready' }
  | { state: 'building'; doing: string; part: number }
  | { state: 'failed'; code: string; message: string };

interface Job {
  flags: Int32Array;
  failed: { code: string; message: string } | null;
}
const jobs = new Map<string, Job>();
/** Dumps are indexed one after another: each takes much memory. */
let queue: Promise<unknown> = Promise.resolve();

/** Where a dump and its index lie. */
export function heapPlace(id: string, weakKeep: boolean): HeapPlace {
  const { dataFolder } = settings();
  return { folder: indexFolder(dataFolder, id, weakKeep), dump: new EvidenceStore(dataFolder).pathOf(id) };
}

/** Says how far the index is, and begins it where it is not there. */
export async function indexState(id: string, weakKeep: boolean, again = false): Promise<IndexState> {
  const { folder } = heapPlace(id, weakKeep);
  const job = jobs.get(folder);
  if (job?.failed && !again) return { state: 'failed', ...job.failed };
  if (job && !job.failed) {
    const [percent, doing] = [Atomics.load(job.flags, 0), Atomics.load(job.flags, 1)];
    return { state: 'building', doing: DOING[doing], part: percent / 100 };
  }
  const store = new EvidenceStore(settings().dataFolder);
  if (!(await store.has(id)))
    return {
      state: 'failed',
      code: 'missing-file',
      message:
        'The file of this dump is missing from the data folder. Remove it from the list, or send the file again.'
    };
  if (isIndexed(folder)) return { state: 'ready' };
  if (again) await tryAgain('dump', id);
  await mkdir(path.dirname(folder), { recursive: true });
  begin(id, folder, weakKeep);
  return { state: 'building', doing: DOING[0], part: 0 };
}

function begin(id: string, folder: string, weakKeep: boolean): void {
  const state = new SharedArrayBuffer(12);
  const job: Job = { flags: new Int32Array(state), failed: null };
  jobs.set(folder, job);
  const { dump } = heapPlace(id, weakKeep);
  const { maxHeapBytes } = settings();
  queue = queue
    .then(() =>
      guarded({ kind: 'dump', id, name: id.slice(0, 12) }, () =>
        callHeapIndexer((indexer) =>
          indexer.build({ dump, folder, weakKeep, maxInflatedBytes: maxHeapBytes, state })
        )
      )
    )
    .then(async (outcome) => {
      if (!outcome.ok) {
        job.failed = { code: outcome.code, message: outcome.message };
        return;
      }
      jobs.delete(folder);
      if (!weakKeep) {
        await change('summarise', id, outcome.value.summary);
        await change('nameEvidence', id, outcome.value.names);
      }
      publish('evidence');
    })
    .catch((cause: unknown) => {
      if (!(cause instanceof NotTried)) console.error('A heap dump could not be indexed.', cause);
      job.failed =
        cause instanceof NotTried
          ? { code: 'set-aside', message: cause.message }
          : {
              code: 'died',
              message:
                'The thread that reads dumps crashed, possibly out of memory. The dump is stored; try again.'
            };
    });
}

export function cancelIndex(id: string, weakKeep: boolean): void {
  const job = jobs.get(heapPlace(id, weakKeep).folder);
  if (job) Atomics.store(job.flags, 2, 1);
}

/** Removes what was worked out of a dump, when the dump itself goes. */
export async function dropIndexes(id: string): Promise<void> {
  for (const weakKeep of [false, true]) {
    cancelIndex(id, weakKeep);
    const { folder } = heapPlace(id, weakKeep);
    jobs.delete(folder);
    await rm(folder, { recursive: true, force: true });
  }
}
