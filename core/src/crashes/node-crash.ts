import * as v from 'valibot';
import { EvidenceError } from '../formats/evidence-error';
import { jsonDocument } from '../formats/parse-json';
import { causeOf } from './cause';
import { NO_CRASH, type Crash } from './crash';

const text = v.fallback(v.optional(v.string(), ''), '');
const bytes = v.fallback(v.optional(v.nullable(v.pipe(v.number(), v.finite(), v.minValue(0))), null), null);
const limit = v.fallback(
  v.optional(v.object({ soft: v.union([v.number(), v.literal('unlimited')]) }), { soft: 'unlimited' }),
  { soft: 'unlimited' }
);

/** The parts of a diagnostic report that tell of the end of a process (source: Node.js documentation, "Diagnostic report"). */
const Report = v.object({
  header: v.object({
    event: text,
    trigger: text,
    dumpEventTimeStamp: text,
    nodejsVersion: text,
    processId: v.fallback(v.optional(v.number(), 0), 0),
    threadId: v.fallback(v.optional(v.nullable(v.number()), null), null),
    commandLine: v.fallback(v.optional(v.array(v.string()), []), [])
  }),
  javascriptStack: v.fallback(
    v.optional(v.object({ message: text, stack: v.fallback(v.optional(v.array(v.string()), []), []) }), {}),
    { message: '', stack: [] }
  ),
  javascriptHeap: v.fallback(
    v.optional(v.object({ usedMemory: bytes, memoryLimit: bytes, externalMemory: bytes }), {}),
    { usedMemory: null, memoryLimit: null, externalMemory: null }
  ),
  resourceUsage: v.fallback(
    v.optional(v.object({ rss: bytes, maxRss: bytes, constrained_memory: bytes }), {}),
    { rss: null, maxRss: null, constrained_memory: null }
  ),
  userLimits: v.fallback(v.optional(v.object({ open_files: limit, stack_size_bytes: limit }), {}), {
    open_files: { soft: 'unlimited' },
    stack_size_bytes: { soft: 'unlimited' }
  })
});

/** Reports that are written because the process ends. Others are asked for: they tell of threads. */
export const ENDS_PROCESS = /^(?:Exception|FatalError|OOMError)$/;
/** What stands for "no limit" in the memory of a container. */
const NO_LIMIT = 2 ** 60;

/** Reads a diagnostic report of Node.js that was written as the process ended. @throws EvidenceError `not-json`, `not-a-crash`. */
export function readNodeCrash(content: string): Crash {
  return nodeCrash(jsonDocument(content));
}

/** @throws EvidenceError `not-a-crash`. */
export function nodeCrash(document: unknown): Crash {
  const read = v.safeParse(Report, document);
  if (!read.success || !ENDS_PROCESS.test(read.output.header.trigger))
    throw new EvidenceError(
      'not-a-crash',
      'Expected a Node.js diagnostic report of an uncaught exception or a fatal error, but its trigger is another.'
    );
  const { header, javascriptStack, javascriptHeap, resourceUsage, userLimits } = read.output;
  const atMs = Number(header.dumpEventTimeStamp);
  const exception = thrown(header, javascriptStack);
  const known = (name: string, value: number | null): Crash['memory'] =>
    value === null || value >= NO_LIMIT ? [] : [{ name, bytes: value }];
  const limitOf = (soft: number | 'unlimited'): number | null => (soft === 'unlimited' ? null : soft);
  return {
    ...NO_CRASH,
    cause:
      header.trigger === 'OOMError'
        ? 'memory'
        : (causeOf(exception) ?? (header.trigger === 'Exception' ? 'exception' : 'runtime')),
    exception,
    runtime: `Node.js ${header.nodejsVersion}`.trim(),
    thread: header.threadId === null ? '' : header.threadId === 0 ? 'main' : `worker ${header.threadId}`,
    pid: header.processId,
    atMs: header.dumpEventTimeStamp !== '' && Number.isFinite(atMs) ? atMs : null,
    memory: [
      ...known('heap in use', javascriptHeap.usedMemory),
      ...known('buffers and other memory outside of the heap', javascriptHeap.externalMemory),
      ...known('resident', resourceUsage.rss),
      ...known('resident, at most', resourceUsage.maxRss)
    ],
    limits: [
      ...known('heap', javascriptHeap.memoryLimit).map(({ name, bytes: value }) => ({
        name,
        value,
        unit: 'bytes' as const
      })),
      ...known('container', resourceUsage.constrained_memory).map(({ name, bytes: value }) => ({
        name,
        value,
        unit: 'bytes' as const
      })),
      { name: 'stack', value: limitOf(userLimits.stack_size_bytes.soft), unit: 'bytes' },
      { name: 'open files', value: limitOf(userLimits.open_files.soft), unit: 'files' }
    ],
    program: programOf(header.commandLine)
  };
}

/** The stack of the report, as the runtime prints it. A report of a fatal error has none. */
function thrown(
  { event, trigger }: { event: string; trigger: string },
  { message, stack }: { message: string; stack: string[] }
): { type: string; message: string; stack: string } {
  const frames = stack.filter((line) => /^\s*at /.test(line));
  if (trigger !== 'Exception' && frames.length === 0) return { type: '', message: event, stack: '' };
  const [, type = '', said = message] = /^([A-Za-z_$][\w.$]*): ([\s\S]*)$/.exec(message) ?? [];
  return { type, message: said, stack: [message, ...frames.map((line) => `    ${line.trim()}`)].join('\n') };
}

/** The program and the file it runs: arguments may hold what nobody else should see. */
export function programOf(command: readonly string[]): string {
  const [first = '', ...rest] = command;
  const file = rest.find((word) => !word.startsWith('-'));
  return [first, file].filter(Boolean).join(' ');
}
