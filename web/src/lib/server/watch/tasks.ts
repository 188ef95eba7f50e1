import { formatDuration, plural } from '@tromix/core/text/format';
import type { WatchRecording } from '@tromix/core/watch/watch';
import { kindView } from '$lib/evidence/kinds';
import { evidenceKindOf } from '$lib/evidence/recorded-kind';
import { scopeOfWatched } from '$lib/watched-place';
import { addEntry } from '../cases/add-entry';
import { pinned } from '../cases/draft';
import { openNewCase, type NewEntry } from '../cases/new-case';
import { publish, subscribe } from '../live';
import type { Recording } from '../queries/recordings';
import { change } from '../workers';
import { caseOfFiring } from './case-of-firing';
import { judging } from './judging';
import { firingOf, tasksIn, watchOf, type WatchTask } from './queries';
import { recordFor, type Recorded } from './record-for';
import { repeatedly } from './schedule';

const TICK_MS = 5000;
/** Tasks under way, by their ids: recordings take minutes, and other watches do not wait for them. */
const underWay = new Set<string>();

async function doTasks(): Promise<void> {
  if (!judging.isHere) return;
  for (const task of await tasksIn('waiting')) {
    if (underWay.has(task.id)) continue;
    underWay.add(task.id);
    void settle(task).finally(() => underWay.delete(task.id));
  }
}

/** Does a task, and notes what came of it. */
async function settle(task: WatchTask): Promise<void> {
  const note = async (state: string, message: string): Promise<void> => {
    await change('updateTask', task.id, { state, message });
    publish('watches');
  };
  try {
    await note('doing', '');
    await note('done', await doOne(task));
  } catch (cause) {
    console.error('What a watch asks for could not be done.', cause);
    await note('failed', (cause as Error).message).catch(() => undefined);
  }
}

/** Opens the case, makes the recordings, and pins each to the case as it is saved. @returns what came of it */
async function doOne({ watchId, firingId, actions }: WatchTask): Promise<string> {
  const [stored, firing] = await Promise.all([watchOf(watchId), firingOf(firingId)]);
  if (!stored || !firing) return 'The watch was removed meanwhile.';
  const { watched } = stored.watch.condition;
  // What is to be recorded does not wait for the case: it may be over soon.
  const recording = Promise.all(
    actions.record.map((order) => {
      const { service, host } = scopeOfWatched(watched);
      return recordFor(order, service, host).then((recorded) => ({ order, recorded }));
    })
  );
  // It is awaited below, whatever becomes of the case.
  recording.catch(() => undefined);
  let caseId = '';
  if (actions.case) {
    const draft = await caseOfFiring(stored, firing, Date.now());
    ({ id: caseId } = await openNewCase(draft.question, draft.entries));
    await change('openFiringCase', firingId, caseId);
    publish('watches');
  }
  const all = await recording;
  if (caseId) for (const { order, recorded } of all) await addEntry(caseId, recordedEntry(order, recorded));
  const saved = all.filter(({ recorded }) => recorded.ok).length;
  const failed = all.flatMap(({ recorded }) => (recorded.ok ? [] : [recorded.message]));
  return [
    caseId ? 'A case was opened.' : '',
    saved > 0 ? `${plural(saved, 'recording')} saved.` : '',
    ...failed.map((message) => `Not recorded: ${message}`)
  ]
    .filter(Boolean)
    .join(' ');
}

const NAMES: Record<WatchRecording['kind'], string> = {
  cpu: 'CPU profile',
  allocation: 'Allocation profile',
  heap: 'Heap dump',
  threads: 'Thread dump'
};
const PINNED_AS = { profile: 'profile', heap: 'heap', threads: 'threads' } as const;

/** A recording as the case keeps it; one that failed is said to have. */
function recordedEntry({ kind, seconds }: WatchRecording, recorded: Recorded): NewEntry {
  const title = `${NAMES[kind]} when it came on`;
  if (!recorded.ok) return { title, text: `It was not recorded: ${recorded.message}`, pin: null };
  const { evidenceId, service, host, pid } = recorded.recording;
  const { path, choices } = kindView(evidenceKindOf(kind)).place(evidenceId, '');
  const query = new URLSearchParams(choices).toString();
  return pinned(title, {
    kind: PINNED_AS[evidenceKindOf(kind) as keyof typeof PINNED_AS],
    sentence: `${processName({ service, pid })}${host ? ` on ${host}` : ''}, recorded ${kind === 'cpu' || kind === 'allocation' ? `for ${formatDuration(seconds * 1e9)}` : 'at once'}.`,
    address: query ? `${path}?${query}` : path,
    files: [evidenceId]
  });
}

const processName = ({ service, pid }: Pick<Recording, 'service' | 'pid'>): string =>
  `${service || 'A process'}${pid > 0 ? ` ${pid}` : ''}`;

/** Does what watches ask for until the server ends. What a server that stopped left behind is not begun again: the moment is over. */
export async function keepDoingTasks(): Promise<void> {
  for (const { id } of await tasksIn('doing'))
    await change('updateTask', id, { state: 'failed', message: 'The server stopped while it was done.' });
  const failed = (cause: unknown): void =>
    console.error('What watches ask for could not be looked for.', cause);
  repeatedly(TICK_MS, doTasks, failed);
  subscribe((event) => {
    if (event === 'watches') void doTasks().catch(failed);
  });
}
