import { jsonDocument } from '../formats/parse-json';
import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { whoseV8 } from '../whose/v8';
import { FrameList } from './frame-list';
import type { DumpSeries, DumpThread, ThreadFrame } from './model';
import { bareThread } from './bare-thread';

/** The parts of a diagnostic report that tell of threads (source: Node.js documentation, “Diagnostic report”). */
interface Report {
  header?: {
    dumpEventTime?: string;
    dumpEventTimeStamp?: string;
    processId?: number;
    threadId?: number | null;
    nodejsVersion?: string;
    host?: string;
    trigger?: string;
    event?: string;
  };
  javascriptStack?: { message?: string; stack?: unknown[] };
  resourceUsage?: { userCpuSeconds?: number; kernelCpuSeconds?: number };
  uvthreadResourceUsage?: { userCpuSeconds?: number; kernelCpuSeconds?: number };
  libuv?: { type?: string; is_active?: boolean }[];
  workers?: Report[];
}

const AT = /^\s*at (?:async )?(?:(.*?) \()?(.*?)(?::(\d+))?(?::(\d+))?\)?$/;

/**
 * Reads a Node.js diagnostic report: the main thread and its workers. Environment and network addresses in it are not read.
 * @throws EvidenceError `not-json`, `no-threads`.
 */
export function readNodeReport(text: string): { series: DumpSeries; warnings: Warning[] } {
  const report = jsonDocument(text) as Report;
  if (!report?.header || !report.javascriptStack)
    throw new EvidenceError(
      'no-threads',
      'Expected a Node.js diagnostic report with header and javascriptStack, but they are not there.'
    );
  const warnings = new Warnings();
  const frames = new FrameList(v8Frame);
  const { header } = report;
  const threads = [
    threadOf(report, 'main', frames),
    ...(report.workers ?? []).map((worker, i) =>
      threadOf(worker, `worker ${worker.header?.threadId ?? i + 1}`, frames)
    )
  ];
  const notes = [`written because of: ${header.trigger ?? 'unknown'}`, ...handles(report)];
  warnings.add(
    'no-locks',
    'JavaScript has no locks: a report shows stacks and CPU time, not who waits for whom.'
  );
  const series: DumpSeries = {
    format: 'node-report',
    frames: frames.frames,
    dumps: [
      {
        capturedAt: header.dumpEventTime ?? '',
        runtime: `Node.js ${header.nodejsVersion ?? ''}`.trim(),
        pid: header.processId ?? 0,
        threads,
        locks: [],
        reportedDeadlocks: [],
        notes
      }
    ]
  };
  return { series, warnings: warnings.list() };
}

function threadOf(report: Report, name: string, list: FrameList): DumpThread {
  // The lines of a message that has several stand among the frames.
  const stack = (report.javascriptStack?.stack ?? []).filter(
    (line): line is string => typeof line === 'string' && /^\s*at /.test(line)
  );
  const frames = Int32Array.from(stack, (line) => list.ofLine(line));
  const cpu = report.uvthreadResourceUsage;
  // A report is written by the thread itself: with a stack it runs JavaScript.
  const mode = frames.length === 0 ? 'waiting' : 'running';
  return {
    ...bareThread(name, String(report.header?.threadId ?? 0)),
    state: frames.length === 0 ? 'event loop' : 'JavaScript',
    mode,
    cpuMs: cpu ? ((cpu.userCpuSeconds ?? 0) + (cpu.kernelCpuSeconds ?? 0)) * 1000 : null,
    frames
  };
}

/** What the event loop waits for, by kind. */
function handles({ libuv = [] }: Report): string[] {
  const kinds = new Map<string, number>();
  for (const { type, is_active: active } of libuv)
    if (active && type && type !== 'loop') kinds.set(type, (kinds.get(type) ?? 0) + 1);
  if (kinds.size === 0) return [];
  return [`active handles: ${[...kinds].map(([kind, count]) => `${count} ${kind}`).join(', ')}`];
}

function v8Frame(line: string): ThreadFrame {
  const [, name = '', file = '', row = '0', column = '0'] = AT.exec(line) ?? [];
  const place = file === '<anonymous>' ? '' : file;
  return {
    name: name || '(anonymous)',
    file: place,
    line: Number(row),
    column: Number(column),
    ...whoseV8(name, place, Number(row))
  };
}
