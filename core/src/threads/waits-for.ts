import type { Warning } from '../formats/evidence-error';
import { leastOf } from '../stats/extremes';
import type { ThreadDump } from './model';

/** A lock with threads waiting for it. Threads are indices into the dump. */
export interface Queue {
  lock: number;
  /** Threads that hold it as far as the dump names them; more than one where it contradicts itself. */
  owners: number[];
  waiting: number[];
  /** True where nobody need hold it: a condition, or a notification. */
  condition: boolean;
}

export interface RootBlocker {
  /** Holds the lock, and waits for no lock that has an owner. */
  thread: number;
  lock: number;
  /** Threads that wait for this lock. */
  waiting: number[];
  direct: number;
  /** With all that wait behind those. */
  transitive: number;
}

export interface Deadlock {
  /** In cycle order: each waits for the lock of the same place, which the next holds; the last's is held by the first. */
  threads: number[];
  locks: number[];
  /** Further threads that wait behind them. */
  behind: number;
}

export interface WaitsFor {
  /** One for each lock somebody waits for; most waiting first. */
  queues: Queue[];
  /** Thread → index of the queue it stands in; −1 for none. */
  queueOf: Int32Array;
  /** Thread → the queues for locks it holds. */
  heldQueues: number[][];
  /** Most threads behind first. */
  rootBlockers: RootBlocker[];
  deadlocks: Deadlock[];
  /** Queues for locks nobody holds in this dump. */
  ownerless: number[];
  /** Contradictions found, for people; with how often. */
  disagreements: Warning[];
}

/** Classes whose objects are waited for until something happens, not until somebody lets go (common practice: the JDK's own). */
const CONDITION =
  /ConditionObject$|ConditionNode$|CountDownLatch|CyclicBarrier|SynchronousQueue|FutureTask|CompletableFuture|Exchanger|Phaser|ForkJoin|LinkedTransferQueue|sync\.(?:Cond|WaitGroup)$/;

/**
 * Who waits for whom in one dump. An edge stands only where an owner is named: by a monitor's "locked" line, by the list of
 * ownable synchronizers, or by the runtime's own deadlock section. Deadlocks are the cycles of these edges (strongly connected
 * components; source: Coffman, Elphick, Shoshani 1971, for locks with one instance; Tarjan 1972 for the components).
 */
export function waitsFor(dump: ThreadDump): WaitsFor {
  const { threads } = dump;
  const owners = ownersOf(dump);
  const queues = queuesOf(dump, owners);
  const queueOf = new Int32Array(threads.length).fill(-1);
  queues.forEach(({ waiting }, i) => waiting.forEach((thread) => (queueOf[thread] = i)));
  const heldQueues: number[][] = threads.map(() => []);
  queues.forEach(({ owners: holding }, i) => holding.forEach((thread) => heldQueues[thread].push(i)));
  const next = (thread: number): readonly number[] =>
    queueOf[thread] < 0 ? NONE : queues[queueOf[thread]].owners;
  const cycles = componentsOf(threads.length, next)
    .filter((members) => members.length > 1)
    .map((members) => cycleIn(members, next));
  const behind = (starts: readonly number[]): number[] => allBehind(starts, heldQueues, queues);
  const deadlocks = cycles.map((cycle) => {
    const inside = new Set(cycle);
    return {
      threads: cycle,
      locks: cycle.map((thread) => queues[queueOf[thread]].lock),
      behind: behind(cycle).filter((thread) => !inside.has(thread)).length
    };
  });
  const rootBlockers: RootBlocker[] = [];
  heldQueues.forEach((held, thread) => {
    if (held.length === 0 || next(thread).length > 0) return;
    for (const i of held) {
      const { lock, waiting } = queues[i];
      const all = new Set([...waiting, ...behind(waiting)]);
      rootBlockers.push({ thread, lock, waiting, direct: waiting.length, transitive: all.size });
    }
  });
  return {
    queues,
    queueOf,
    heldQueues,
    rootBlockers: rootBlockers.sort((a, b) => b.transitive - a.transitive || a.thread - b.thread),
    deadlocks: deadlocks.sort((a, b) => b.threads.length + b.behind - a.threads.length - a.behind),
    ownerless: queues.flatMap(({ owners: holding }, i) => (holding.length === 0 ? [i] : [])),
    disagreements: disagreements(dump, owners, deadlocks)
  };
}

const NONE: readonly number[] = [];

/** Lock → threads that hold it, as the dump names them. */
function ownersOf({ threads, reportedDeadlocks }: ThreadDump): Map<number, number[]> {
  const owners = new Map<number, number[]>();
  const add = (lock: number, thread: number): void => {
    const known = owners.get(lock);
    if (!known) owners.set(lock, [thread]);
    else if (!known.includes(thread)) known.push(thread);
  };
  threads.forEach((thread, i) => {
    for (const { lock } of thread.holds) if (lock !== thread.waitsFor?.lock) add(lock, i);
  });
  // What only the runtime's own section names: there threads go by their names, which may be shared.
  const inCycle = reportedDeadlocks.flatMap((deadlock) => deadlock.threads);
  const waiting = new Set(inCycle.map(({ name }) => name));
  for (const { name, heldBy } of inCycle) {
    const waiter = threads.find((thread) => thread.name === name && thread.waitsFor);
    if (!waiter?.waitsFor || owners.has(waiter.waitsFor.lock) || !waiting.has(heldBy)) continue;
    const holder = threads.findIndex((thread) => thread.name === heldBy && thread.waitsFor);
    if (holder >= 0) add(waiter.waitsFor.lock, holder);
  }
  return owners;
}

function queuesOf({ threads, locks }: ThreadDump, owners: Map<number, number[]>): Queue[] {
  const byLock = new Map<number, Queue>();
  threads.forEach(({ waitsFor: wait }, i) => {
    if (!wait) return;
    // A condition or a notification is waited for until it comes, whoever holds the monitor meanwhile.
    const condition = wait.kind === 'notify' || CONDITION.test(locks[wait.lock].className);
    let queue = byLock.get(wait.lock);
    if (!queue) {
      queue = {
        lock: wait.lock,
        owners: condition ? [] : (owners.get(wait.lock) ?? []),
        waiting: [],
        condition
      };
      byLock.set(wait.lock, queue);
    } else if (!condition && queue.condition) {
      // Some wait to be notified and others to enter the same monitor: it is a lock for the latter.
      queue.condition = false;
      queue.owners = owners.get(wait.lock) ?? [];
      queue.waiting = queue.waiting.filter((thread) => threads[thread].waitsFor!.kind !== 'notify');
    }
    if (condition && !queue.condition) return;
    queue.waiting.push(i);
  });
  return [...byLock.values()].sort((a, b) => b.waiting.length - a.waiting.length);
}

/** Every thread that waits behind these, these not counted unless they wait behind themselves. */
function allBehind(starts: readonly number[], heldQueues: number[][], queues: readonly Queue[]): number[] {
  const seen = new Set<number>();
  const open = [...starts];
  while (open.length > 0) {
    for (const queue of heldQueues[open.pop()!]) {
      for (const thread of queues[queue].waiting) {
        if (seen.has(thread)) continue;
        seen.add(thread);
        open.push(thread);
      }
    }
  }
  return [...seen];
}

/** Tarjan's strongly connected components, without recursion: chains may be thousands long. */
function componentsOf(count: number, next: (node: number) => readonly number[]): number[][] {
  const index = new Int32Array(count).fill(-1);
  const low = new Int32Array(count);
  const onStack = new Uint8Array(count);
  const stack: number[] = [];
  const components: number[][] = [];
  let counter = 0;
  for (let start = 0; start < count; start++) {
    if (index[start] >= 0) continue;
    const path = [{ node: start, edge: 0 }];
    while (path.length > 0) {
      const top = path.at(-1)!;
      const { node } = top;
      if (top.edge === 0) {
        index[node] = low[node] = counter++;
        stack.push(node);
        onStack[node] = 1;
      }
      const edges = next(node);
      if (top.edge < edges.length) {
        const to = edges[top.edge++];
        if (index[to] < 0) path.push({ node: to, edge: 0 });
        else if (onStack[to]) low[node] = Math.min(low[node], index[to]);
        continue;
      }
      path.pop();
      const parent = path.at(-1);
      if (parent) low[parent.node] = Math.min(low[parent.node], low[node]);
      if (low[node] !== index[node]) continue;
      const members = stack.splice(stack.lastIndexOf(node));
      for (const member of members) onStack[member] = 0;
      components.push(members);
    }
  }
  return components;
}

/** One cycle through a component, from its first thread on; the whole of it wherever each waits for one lock with one owner. */
function cycleIn(members: readonly number[], next: (node: number) => readonly number[]): number[] {
  const inside = new Set(members);
  const start = leastOf(members);
  const place = new Map<number, number>();
  const path: number[] = [];
  for (let at = start; !place.has(at); at = next(at).find((to) => inside.has(to))!) {
    place.set(at, path.length);
    path.push(at);
  }
  const back = next(path.at(-1)!).find((to) => inside.has(to))!;
  return path.slice(place.get(back));
}

function disagreements(
  { threads, reportedDeadlocks }: ThreadDump,
  owners: Map<number, number[]>,
  deadlocks: readonly Deadlock[]
): WaitsFor['disagreements'] {
  const found: WaitsFor['disagreements'] = [];
  let shared = 0;
  for (const holding of owners.values()) if (holding.length > 1) shared++;
  if (shared > 0)
    found.push({
      code: 'two-owners',
      message:
        'A lock is held by more than one thread in this dump, which cannot be: both are shown. It may have been written while threads ran.',
      count: shared
    });
  const own = new Set(
    deadlocks.flatMap((deadlock) => deadlock.threads.map((thread) => threads[thread].name))
  );
  const runtimes = new Set(reportedDeadlocks.flatMap((deadlock) => deadlock.threads.map(({ name }) => name)));
  const differing =
    [...own].filter((name) => !runtimes.has(name)).length +
    [...runtimes].filter((name) => !own.has(name)).length;
  if (differing > 0 && reportedDeadlocks.length > 0)
    found.push({
      code: 'deadlock-disagrees',
      message:
        'The runtime’s own deadlock section and the stacks do not name the same threads; what the stacks show is drawn.',
      count: differing
    });
  return found;
}
