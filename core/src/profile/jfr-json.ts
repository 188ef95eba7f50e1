import { damagedJson, parseJson } from '../formats/parse-json';
import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import type { FileHead } from '../formats/file-head';
import { whoseJava } from '../whose/java';
import { NATIVE } from '../whose/whose';
import { FrameTable } from './frame-table';
import { LabelTable } from './label-table';
import { LineCounts } from './line-counts';
import type { Profile } from './model';
import { StackBuilder } from './stack-builder';
import { ThreadTable } from './thread-table';

// Source of the shapes: what `jfr print --json` of OpenJDK 17 writes of a recording made by the JVM itself.

interface JfrFrame {
  method?: { type?: { name?: string }; name?: string };
  lineNumber?: number;
  type?: string;
}
interface JfrThread {
  javaName?: string | null;
  osName?: string | null;
}
interface JfrEvent {
  type?: string;
  values?: {
    startTime?: string;
    duration?: string;
    weight?: number;
    allocationSize?: number;
    tlabSize?: number;
    sampledThread?: JfrThread | null;
    eventThread?: JfrThread | null;
    /** Of waits: what is waited for, and who had the lock. */
    monitorClass?: { name?: string } | null;
    parkedClass?: { name?: string } | null;
    previousOwner?: JfrThread | null;
    host?: string | null;
    port?: number | null;
    path?: string | null;
    stackTrace?: { truncated?: boolean; frames?: JfrFrame[] } | null;
  };
}

interface Measure extends Pick<Profile, 'valueType' | 'unit'> {
  /** Events that count, and what each of them weighs. */
  weigh: Record<string, (values: NonNullable<JfrEvent['values']>) => number>;
}

const once = (): number => 1;
const duration = ({ duration: text = '' }: NonNullable<JfrEvent['values']>): number => isoNs(text);
const outside = ({ allocationSize = 0 }: NonNullable<JfrEvent['values']>): number => allocationSize;

/** What can be weighed. A recording says nowhere beside its samples how often they were taken: they are counted. */
const MEASURES: Record<string, Measure> = {
  'CPU samples': {
    valueType: 'cpu',
    unit: 'count',
    weigh: { 'jdk.ExecutionSample': once }
  },
  'samples in native code': {
    valueType: 'wall',
    unit: 'count',
    weigh: { 'jdk.NativeMethodSample': once }
  },
  allocation: {
    valueType: 'allocation',
    unit: 'bytes',
    weigh: { 'jdk.ObjectAllocationSample': ({ weight = 0 }) => weight }
  },
  'allocation by buffers': {
    valueType: 'allocation',
    unit: 'bytes',
    weigh: {
      'jdk.ObjectAllocationInNewTLAB': ({ tlabSize = 0 }) => tlabSize,
      'jdk.ObjectAllocationOutsideTLAB': outside
    }
  },
  'waiting for locks': {
    valueType: 'waiting',
    unit: 'nanoseconds',
    weigh: { 'jdk.JavaMonitorEnter': duration }
  },
  waiting: {
    valueType: 'waiting',
    unit: 'nanoseconds',
    weigh: {
      'jdk.JavaMonitorWait': duration,
      'jdk.ThreadPark': duration,
      'jdk.ThreadSleep': duration,
      'jdk.SocketRead': duration,
      'jdk.SocketWrite': duration,
      'jdk.FileRead': duration,
      'jdk.FileWrite': duration
    }
  }
};

/** What a thread waits for, in words; '' for what is no wait. */
function awaited(type: string, values: NonNullable<JfrEvent['values']>): string {
  const of = (named: { name?: string } | null | undefined): string => {
    const name = named?.name?.replaceAll('/', '.');
    return name ? ` ${name}` : '';
  };
  switch (type) {
    case 'jdk.JavaMonitorEnter':
      return `the lock of${of(values.monitorClass) || ' an object'}`;
    case 'jdk.JavaMonitorWait':
      return `a notice of${of(values.monitorClass) || ' an object'}`;
    case 'jdk.ThreadPark':
      return `to be unparked${values.parkedClass ? `, by${of(values.parkedClass)}` : ''}`;
    case 'jdk.ThreadSleep':
      return 'time to pass';
    case 'jdk.SocketRead':
    case 'jdk.SocketWrite':
      return `the network${values.host ? `, ${values.host}:${values.port ?? ''}` : ''}`;
    case 'jdk.FileRead':
    case 'jdk.FileWrite':
      return 'a file';
    default:
      return '';
  }
}

/** True for what `jfr print --json` begins with. */
export const looksLikeJfrJson = ({ text }: Pick<FileHead, 'text'>): boolean =>
  /^\{\s*"recording"\s*:\s*\{\s*"events"\s*:/.test(text);

/**
 * Reads the events of a JVM's own recording with stacks, as `jfr print --json` writes them: samples of running threads, allocation, and waiting for locks.
 * @param wanted the measure that weighs; '' for the first there is.
 * @throws EvidenceError `json-damaged`, `not-a-profile` where no event has a stack.
 */
export function readJfrJson(
  content: Uint8Array,
  wanted = ''
): { profile: Profile; measures: string[]; startedAtUs: number | null; warnings: Warning[] } {
  const events = parse(content);
  const types = new Set(events.map(({ type = '' }) => type));
  const measures = Object.keys(MEASURES).filter((name) =>
    Object.keys(MEASURES[name].weigh).some((type) => types.has(type))
  );
  if (measures.length === 0)
    throw new EvidenceError(
      'not-a-profile',
      'The recording holds no samples. Print it with jfr print --json --stack-depth 64 --events jdk.ExecutionSample,jdk.ObjectAllocationSample,jdk.JavaMonitorEnter.'
    );
  const measure = measures.includes(wanted) ? wanted : measures[0];
  const warnings = new Warnings();
  warnOfCut(events, warnings);
  const times = events.flatMap(({ values }) => timeMs(values?.startTime));
  const first = times.reduce((least, time) => Math.min(least, time), Infinity);
  const last = times.reduce((most, time) => Math.max(most, time), -Infinity);
  return {
    profile: {
      ...profileOf(events, MEASURES[measure], warnings),
      measure,
      ...(last > first ? { recordedNs: Math.round((last - first) * 1e6) } : {})
    },
    measures,
    startedAtUs: Number.isFinite(first) ? Math.round(first * 1000) : null,
    warnings: warnings.list()
  };
}

/** What is read of a recording, as a recording: the environment and properties that it may hold as well are nobody's business here. */
export function samplesOfRecording(content: Uint8Array): string {
  const read = new Set(Object.values(MEASURES).flatMap(({ weigh }) => Object.keys(weigh)));
  return JSON.stringify({ recording: { events: parse(content).filter(({ type = '' }) => read.has(type)) } });
}

function profileOf(
  events: readonly JfrEvent[],
  { weigh, valueType, unit }: Measure,
  warnings: Warnings
): Profile {
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const lines = new LineCounts();
  const threads = new ThreadTable();
  const labels = new LabelTable();
  const [nodes, weights, of]: [number[], number[], number[]] = [[], [], []];
  for (const { type = '', values } of events) {
    if (!values || !Object.hasOwn(weigh, type)) continue;
    const weight = weigh[type](values);
    if (!(weight > 0)) continue;
    const frames = values.stackTrace?.frames ?? [];
    if (frames.length === 0) {
      warnings.add('no-stack', 'An event has no stack; it counts at the root.');
    }
    if (values.stackTrace?.truncated)
      warnings.add(
        'stack-cut',
        'A stack was deeper than was recorded: what called its outermost function is not told.'
      );
    let node = 0;
    for (let i = frames.length - 1; i >= 0; i--) node = builder.child(node, frameOf(table, frames[i]));
    const line = frames[0]?.lineNumber ?? 0;
    if (line > 0) lines.add(node, line, weight);
    const thread = values.sampledThread ?? values.eventThread;
    const name = thread?.javaName || thread?.osName || 'not told';
    const waitsFor = awaited(type, values);
    if (waitsFor) labels.add({ key: 'waits for', value: waitsFor });
    const owner = values.previousOwner?.javaName || values.previousOwner?.osName;
    if (owner) labels.add({ key: 'held by', value: owner });
    labels.keep(nodes.length);
    nodes.push(node);
    weights.push(weight);
    of.push(threads.numberOf(name));
  }
  const tree = builder.tree(table.frames.length);
  return {
    valueType,
    unit,
    frames: table.frames,
    ...tree,
    sampleNode: Int32Array.from(nodes),
    sampleTime: new Float64Array(nodes.length),
    sampleWeight: Float64Array.from(weights),
    sampleThread: threads.names.length > 1 ? Uint16Array.from(of) : null,
    threads: threads.names.length > 0 ? threads.names : ['all threads'],
    durationNs: 0,
    labels: labels.labels(nodes.length),
    ticks: lines.ticks(tree.nodeFrame.length)
  };
}

function frameOf(table: FrameTable, { method, type }: JfrFrame): number {
  // Hidden classes carry an address that differs from run to run: without it the same function is the same.
  const owner = (method?.type?.name ?? '')
    .replace(/\+0x[\da-f]+(?:\/\d+)?$/, '')
    .replace(/(\$\$Lambda)\$\d+$/, '$1')
    .replaceAll('/', '.');
  const name = `${owner ? `${owner}.` : ''}${method?.name ?? '(unknown)'}`;
  return table.indexOf(name, '', 0, 0, type === 'Native' ? NATIVE : whoseJava(name));
}

/** Frames of a stack that `jfr print` writes unless it is asked for more; it does not say that it cut any. */
const PRINTED_DEPTH = 5;

function warnOfCut(events: readonly JfrEvent[], warnings: Warnings): void {
  const depths = events.map(({ values }) => values?.stackTrace?.frames?.length ?? 0);
  const cut = depths.filter((depth) => depth === PRINTED_DEPTH).length;
  if (cut < 2 || depths.some((depth) => depth > PRINTED_DEPTH)) return;
  warnings.add(
    'stack-cut',
    'No stack is deeper than 5 frames, which is where jfr print cuts them: what called the outermost is not told. Print with --stack-depth 64.',
    cut
  );
}

const timeMs = (text: string | undefined): number[] => {
  // Dates keep milliseconds alone: what is finer is added.
  const found = /^(.*:\d\d)(\.\d+)?(Z|[+-]\d\d:?\d\d)$/.exec(text ?? '');
  const whole = found ? Date.parse(`${found[1]}${found[3]}`) : NaN;
  return Number.isFinite(whole) ? [whole + Number(`0${found![2] ?? ''}`) * 1000] : [];
};

/** A duration as ISO 8601 writes it (`PT0.082592345S`), in nanoseconds; 0 for none. */
function isoNs(text: string): number {
  const [, hours = 0, minutes = 0, seconds = 0] =
    /^PT(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?$/.exec(text) ?? [];
  return Math.round((Number(hours) * 3600 + Number(minutes) * 60 + Number(seconds)) * 1e9);
}

function parse(content: Uint8Array): JfrEvent[] {
  let raw: unknown;
  try {
    raw = parseJson(new TextDecoder().decode(content));
  } catch (cause) {
    throw damagedJson(cause, 'the JSON of a JVM’s recording', 'Print it again whole.');
  }
  const events = (raw as { recording?: { events?: unknown } } | null)?.recording?.events;
  if (!Array.isArray(events))
    throw new EvidenceError(
      'not-a-profile',
      'Expected the events of a JVM’s recording, but the JSON has none.'
    );
  return events.filter((event): event is JfrEvent => typeof event === 'object' && event !== null);
}
