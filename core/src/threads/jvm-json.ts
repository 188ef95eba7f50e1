import { parseJson } from '../formats/parse-json';
import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { doingOf, modeOfDoing } from './doing';
import { FrameList } from './frame-list';
import { javaFrame } from './java-frame';
import { LockTable } from './lock-table';
import { JVM_MODES } from './jvm-modes';
import type { DumpSeries, DumpThread } from './model';

/** Fields as `jcmd Thread.dump_to_file -format=json` writes them; later versions tell state and locks as well. */
interface JsonThread {
  tid?: string | number;
  name?: string;
  virtual?: boolean;
  state?: string;
  stack?: unknown[];
  parkBlocker?: { object?: string; owner?: string | number };
  blockedOn?: string;
  waitingOn?: string;
  monitorsOwned?: { depth?: number; locks?: (string | null)[] }[];
}
interface JsonContainer {
  container?: string;
  threads?: JsonThread[];
}

/**
 * Reads the JVM's JSON dumps (JDK 21 and later; source of the fields: the documentation of
 * `com.sun.management.HotSpotDiagnosticMXBean.dumpThreads`). Where states are not json they are read off the top frames.
 * @throws EvidenceError `not-json`, `no-threads`.
 */
export function readJvmJson(text: string): { series: DumpSeries; warnings: Warning[] } {
  const root = parse(text) as { threadDump?: Record<string, unknown> };
  const dump = root.threadDump;
  const containers = dump?.threadContainers as JsonContainer[] | undefined;
  if (!dump || !Array.isArray(containers))
    throw new EvidenceError(
      'no-threads',
      'Expected a JSON thread dump of a JVM with threadDump.threadContainers, but it is not there.'
    );
  const warnings = new Warnings();
  const frames = new FrameList(javaFrame);
  const locks = new LockTable();
  const threads: DumpThread[] = [];
  const owners: { lock: number; owner: string }[] = [];
  for (const container of containers) {
    for (const json of container?.threads ?? []) {
      if (json === null || typeof json !== 'object') continue;
      const thread = threadOf(json, frames, locks, owners);
      if (container.container && container.container !== '<root>' && thread.name === '')
        thread.name = `${container.container.split('@')[0]} #${thread.id}`;
      if (thread.name === '') thread.name = `#${thread.id}`;
      threads.push(thread);
    }
  }
  if (threads.length === 0) throw new EvidenceError('no-threads', 'The thread dump names no thread at all.');
  for (const { lock, owner } of owners) {
    const holder = threads.find(({ id }) => id === owner);
    if (holder && !holder.holds.some((held) => held.lock === lock)) holder.holds.push({ lock, depth: -1 });
  }
  if (!containers.some((container) => container?.threads?.some((thread) => thread?.state)))
    warnings.add(
      'no-states',
      'This dump has neither states nor locks: what a thread does is read from its top frames, and who waits for whom is unknown.'
    );
  const notes = [`${containers.length} thread containers`];
  const series: DumpSeries = {
    format: 'jvm-threads-json',
    frames: frames.frames,
    dumps: [
      {
        capturedAt: typeof dump.time === 'string' ? dump.time : '',
        runtime: typeof dump.runtimeVersion === 'string' ? `Java ${dump.runtimeVersion}` : 'Java',
        pid: Number(dump.processId) || 0,
        threads,
        locks: locks.locks,
        reportedDeadlocks: [],
        notes
      }
    ]
  };
  return { series, warnings: warnings.list() };
}

function threadOf(
  json: JsonThread,
  list: FrameList,
  locks: LockTable,
  owners: { lock: number; owner: string }[]
): DumpThread {
  const stack = (Array.isArray(json.stack) ? json.stack : []).filter((line) => typeof line === 'string');
  const frames = Int32Array.from(stack, (line) => list.ofLine(line));
  const lockOf = (object: string): number => {
    const at = object.lastIndexOf('@');
    return locks.indexOf(object, at > 0 ? object.slice(0, at) : '');
  };
  const holds = (json.monitorsOwned ?? []).flatMap(({ depth = -1, locks: held = [] }) =>
    held
      .filter((lock): lock is string => typeof lock === 'string')
      .map((lock) => ({ lock: lockOf(lock), depth }))
  );
  let waitsFor: DumpThread['waitsFor'] = null;
  if (json.blockedOn) waitsFor = { lock: lockOf(json.blockedOn), depth: 0, kind: 'enter' };
  else if (json.waitingOn) waitsFor = { lock: lockOf(json.waitingOn), depth: 0, kind: 'notify' };
  else if (json.parkBlocker?.object) {
    waitsFor = { lock: lockOf(json.parkBlocker.object), depth: 0, kind: 'park' };
    if (json.parkBlocker.owner !== undefined)
      owners.push({ lock: waitsFor.lock, owner: String(json.parkBlocker.owner) });
  }
  const doing = doingOf(list.frames, frames);
  const mode = json.state ? (JVM_MODES.get(json.state) ?? 'unknown') : modeOfDoing(doing);
  return {
    name: typeof json.name === 'string' ? json.name : '',
    id: String(json.tid ?? ''),
    nativeId: '',
    state: json.state ?? '',
    mode: mode === 'waiting' && doing === 'sleeping' ? 'sleeping' : mode,
    daemon: false,
    virtual: json.virtual === true || (json.virtual === undefined && isVirtual(list, frames)),
    system: frames.length === 0,
    cpuMs: null,
    elapsedMs: null,
    frames,
    holds: waitsFor?.kind === 'notify' ? holds.filter(({ lock }) => lock !== waitsFor.lock) : holds,
    waitsFor
  };
}

const isVirtual = ({ frames }: FrameList, stack: Int32Array): boolean =>
  stack.some((frame) => frames[frame].name.startsWith('java.lang.VirtualThread.'));

function parse(text: string): object {
  try {
    const value: unknown = parseJson(text);
    if (value !== null && typeof value === 'object') return value;
  } catch (cause) {
    throw new EvidenceError(
      'not-json',
      `Expected JSON, but it ends or breaks off: ${(cause as Error).message}`
    );
  }
  throw new EvidenceError('not-json', 'Expected a JSON object, but found a single value.');
}
