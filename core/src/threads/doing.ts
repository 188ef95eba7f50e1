import type { DumpThread, ThreadFrame, ThreadMode } from './model';

/** What a thread does, read off its top frames. */
export type Doing =
  | 'computing'
  | 'network-read'
  | 'network-write'
  | 'network-connect'
  | 'network-accept'
  | 'database'
  | 'file'
  | 'process'
  | 'sleeping'
  | 'condition'
  | 'lock'
  | 'events'
  | 'nothing'
  | 'unclear';

export const DOING_WORDS: Record<Doing, string> = {
  computing: 'computing',
  'network-read': 'waiting for the network: reading from a socket',
  'network-write': 'writing to a socket',
  'network-connect': 'opening a connection',
  'network-accept': 'waiting for connections',
  database: 'waiting for the database',
  file: 'reading or writing a file',
  process: 'waiting for another process',
  sleeping: 'sleeping',
  condition: 'waiting for a condition',
  lock: 'waiting for a lock',
  events: 'waiting for events',
  nothing: 'without a stack of the program',
  unclear: 'computing or waiting, the dump does not show which,'
};

/**
 * Functions of the runtimes that stand at the top while a thread waits for something (common practice, from the runtimes' own
 * sources), by name; the first that fits a frame counts.
 */
const TOPS: readonly [Doing, RegExp][] = [
  ['sleeping', /^java\.lang\.(?:Virtual)?Thread\.sleep|TimeUnit\.sleep$|^time\.Sleep$/],
  [
    'network-write',
    /SocketOutputStream\.|socketWrite|NioSocketImpl\.(?:implWrite|write|tryWrite)|SocketDispatcher\.write|SocketChannelImpl\.(?:write|implWrite)|^net\.\(\*(?:conn|netFD)\)\.Write|^internal\/poll\.\(\*FD\)\.Write|\bsocket\.send/
  ],
  [
    'network-connect',
    /Socket\.connect|socketConnect|NioSocketImpl\.(?:connect|timedFinishConnect)|Net\.connect|SocketChannelImpl\.(?:connect|finishConnect)|^net\.\(\*(?:Dialer|sysDialer|netFD)\)\.(?:Dial|dial|connect)/
  ],
  [
    'network-accept',
    /ServerSocket(?:Impl|ChannelImpl)?\.(?:implAccept|accept)|socketAccept|NioSocketImpl\.(?:accept|timedAccept)|^net\.\(\*\w+(?:Listener|FD)\)\.[aA]ccept|\bsocket\.accept/
  ],
  [
    'network-read',
    /SocketInputStream\.|socketRead|NioSocketImpl\.(?:implRead|read|timedRead|tryRead)|SocketDispatcher\.read|SocketChannelImpl\.(?:read|implRead)|^net\.\(\*(?:conn|netFD)\)\.Read|^internal\/poll\.\(\*FD\)\.Read|\bsocket\.(?:recv|readinto)|\bSocketIO\.readinto/
  ],
  [
    'process',
    /ProcessImpl\.waitFor|ProcessHandleImpl\.waitForProcessExit|\bPopen\.(?:wait|_wait|_try_wait)|^os\.\(\*Process\)\.[wW]ait/
  ],
  [
    'file',
    /FileInputStream\.|FileOutputStream\.|RandomAccessFile\.|FileDispatcherImpl\.|FileChannelImpl\.|UnixNativeDispatcher\.|^os\.\(\*File\)\.(?:Read|Write|Sync|read|write)/
  ],
  [
    'events',
    /(?:EPoll|KQueue|WEPoll|Poll)\w*\.(?:wait|poll|doSelect)|\bselectors\.\w*\.?select|^selectors?\.|\bSelectorImpl\.|_run_once$/
  ],
  [
    'condition',
    /^java\.lang\.Object\.wait|ConditionObject\.await|CountDownLatch|CyclicBarrier|FutureTask\.|CompletableFuture\.|\bthreading\.wait$|^sync\.\(\*(?:Cond|WaitGroup)\)\.Wait|^sync\.runtime_notifyListWait/
  ],
  [
    'lock',
    /^sync\.\(\*(?:RW)?Mutex\)\.|^sync\.runtime_Semacquire|ReentrantLock|ReentrantReadWriteLock|StampedLock|Semaphore/
  ]
];
const PARKED = /Unsafe\.park|LockSupport\.park|VirtualThread\.park/;
/** A driver's frame a little below a wait for the network: the thread waits for the database. */
const DATABASE = /\bjdbc\b|^java\.sql\.|\bdatabase\/sql\b|\bsqlite3?\b|\bdbapi\b|\bcursors?\.execute/i;

const TOP_FRAMES = 6;
const DRIVER_FRAMES = 20;

const NETWORK: ReadonlySet<Doing> = new Set(['network-read', 'network-write', 'network-connect']);

/** What was read off a stack: many threads share one, and each is asked about again and again. */
const known = new WeakMap<Int32Array, Doing>();

/** @param stack frames of one series, innermost first; it must not change. */
export function doingOf(frames: readonly ThreadFrame[], stack: Int32Array): Doing {
  let doing = known.get(stack);
  if (doing === undefined) known.set(stack, (doing = readOff(frames, stack)));
  return doing;
}

function readOff(frames: readonly ThreadFrame[], stack: Int32Array): Doing {
  if (stack.length === 0) return 'nothing';
  let parked = false;
  for (let depth = 0; depth < stack.length && depth < TOP_FRAMES + (parked ? 4 : 0); depth++) {
    const { name, file, kind } = frames[stack[depth]];
    if (PARKED.test(name)) {
      parked = true;
      continue;
    }
    const found = TOPS.find(([, pattern]) => pattern.test(name) || pattern.test(pythonName(name, file)));
    if (found) {
      // Sockets are written through the runtime's file calls: a little further down it says which.
      const doing = found[0] === 'file' ? (networkBelow(frames, stack, depth) ?? 'file') : found[0];
      return NETWORK.has(doing) && usesDatabase(frames, stack) ? 'database' : doing;
    }
    // Below the program's own code nothing says what its top frame waits for.
    if (kind === 'app' || kind === 'dependency') break;
  }
  return parked ? 'condition' : 'computing';
}

function networkBelow(frames: readonly ThreadFrame[], stack: Int32Array, from: number): Doing | undefined {
  for (let depth = from + 1; depth < stack.length && depth < from + TOP_FRAMES; depth++) {
    const { name, kind } = frames[stack[depth]];
    if (kind !== 'runtime') return undefined;
    const found = TOPS.find(([doing, pattern]) => NETWORK.has(doing) && pattern.test(name));
    if (found) return found[0];
  }
  return undefined;
}

/** `wait` in `threading.py` as `threading.wait`: fault-handler texts name functions without their module. */
function pythonName(name: string, file: string): string {
  return file.endsWith('.py') ? `${file.slice(file.lastIndexOf('/') + 1, -3)}.${name}` : name;
}

function usesDatabase(frames: readonly ThreadFrame[], stack: Int32Array): boolean {
  for (let depth = 0; depth < stack.length && depth < DRIVER_FRAMES; depth++)
    if (DATABASE.test(frames[stack[depth]].name)) return true;
  return false;
}

/** What a thread is at, where the dump tells no states: a top frame of the program’s own may compute or wait for anything. */
export function modeOfDoing(doing: Doing): ThreadMode {
  if (doing === 'computing') return 'unknown';
  if (doing === 'lock') return 'blocked';
  if (doing === 'sleeping') return 'sleeping';
  return doing === 'nothing' ? 'unknown' : 'waiting';
}

/** What a thread does: by its state where that is plain, else by its top frames. */
export function doingOfThread(frames: readonly ThreadFrame[], thread: DumpThread): Doing {
  if (thread.mode === 'blocked') return 'lock';
  if (thread.mode === 'sleeping') return 'sleeping';
  const doing = doingOf(frames, thread.frames);
  if (doing === 'computing' && thread.mode === 'waiting') return 'condition';
  if (doing === 'computing' && thread.mode === 'unknown') return 'unclear';
  return doing;
}
