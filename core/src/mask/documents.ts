import { jvmProgram } from '../crashes/jvm-fatal';
import type { EvidenceFormat } from '../formats/recognise';
import { samplesOfRecording } from '../profile/jfr-json';
import { samplesOfTrace } from '../profile/trace-events';
import { maskOtlpProfiles } from './otlp-profiles';
import { maskProtobufProfile } from './protobuf-profile';
import { maskDoors } from './shapes';
import { maskText } from './text';
import { maskUrls } from './url';

/** Members of a Node.js diagnostic report that hold what the process was given (Node.js documentation, "Diagnostic report"). */
const REPORT_SECRETS = ['environmentVariables', 'networkInterfaces'];

/**
 * A file of evidence as it is kept: user information and values of URLs, credentials, and values under names that say so are masked; the
 * environment of a diagnostic report goes. Frames, thread names and figures stay. Heap dumps are kept as they come: see docs/security.md.
 * @returns the very same text where nothing was to be masked.
 */
export function maskDocument(text: string, format: EvidenceFormat): string {
  switch (format) {
    case 'node-report':
    case 'node-crash':
    case 'process-end':
      return maskReport(text);
    case 'jvm-fatal-log':
      return maskLines(withoutEnvironment(text));
    case 'v8-cpu-profile':
    case 'v8-heap-profile':
    case 'trace-events':
    case 'jfr-json':
      // Names of functions and places of files: pairs of names and values are the format's own.
      return maskDoors(maskUrls(text));
    case 'hprof':
    case 'v8-heap-snapshot':
      return text;
    default:
      return maskLines(text);
  }
}

/**
 * The same of a file's bytes, whatever its format; of traces of a browser and recordings of a JVM only what is read stays.
 * @returns the very same bytes where nothing was to be masked. @throws EvidenceError, RangeError or Error where the content is damaged.
 */
export function maskContent(content: Uint8Array, format: EvidenceFormat): Uint8Array {
  if (format === 'protobuf-profile') return maskProtobufProfile(content);
  if (format === 'otlp-profiles') return maskOtlpProfiles(content);
  const text = new TextDecoder().decode(content);
  const masked = maskDocument(reduced(content, format) ?? text, format);
  return masked === text ? content : new TextEncoder().encode(masked);
}

function reduced(content: Uint8Array, format: EvidenceFormat): string | null {
  if (format === 'trace-events') return samplesOfTrace(content);
  return format === 'jfr-json' ? samplesOfRecording(content) : null;
}

const maskLines = (text: string): string =>
  text
    .split('\n')
    .map((line) => maskText(line, 'name'))
    .join('\n');

/** Of a JVM's fatal error log go the environment and the command line but for the program: options may be anything. */
function withoutEnvironment(log: string): string {
  return log
    .replace(/^Environment Variables:\n[\s\S]*?(?:\n\n|$(?![\s\S]))/m, '')
    .replace(/^(?:java_command|jvm_args|jvm_flags): .*\n/gm, '')
    .replace(/^(Command Line: )(.*)$/m, (_, head: string, words: string) => head + jvmProgram(words));
}

function maskReport(text: string): string {
  let report: unknown;
  try {
    report = JSON.parse(text);
  } catch {
    return text;
  }
  if (typeof report !== 'object' || report === null) return text;
  const cleaned = withoutSecrets(report as Record<string, unknown>);
  return maskText(JSON.stringify(cleaned, null, 2), 'name');
}

/** A diagnostic report of Node.js without its environment, addresses and arguments; also where what `tromix run` saw holds one. */
export function withoutSecrets(report: Record<string, unknown>): Record<string, unknown> {
  const cleaned: Record<string, unknown> = { ...report };
  for (const name of REPORT_SECRETS) delete cleaned[name];
  const { header, workers, nodeReport, jvmFatalLog } = cleaned;
  // What `tromix run` saw holds what the process wrote itself.
  if (typeof nodeReport === 'object' && nodeReport !== null)
    cleaned.nodeReport = withoutSecrets(nodeReport as Record<string, unknown>);
  if (typeof jvmFatalLog === 'string') cleaned.jvmFatalLog = withoutEnvironment(jvmFatalLog);
  if (typeof header === 'object' && header !== null) {
    const { networkInterfaces, commandLine, ...rest } = header as Record<string, unknown>;
    void networkInterfaces;
    // Of the command line the program stays; its arguments may be anything.
    const program = Array.isArray(commandLine) ? commandLine.slice(0, 1) : [];
    cleaned.header = { ...rest, commandLine: program };
  }
  if (Array.isArray(workers))
    cleaned.workers = workers.map((worker: unknown) =>
      typeof worker === 'object' && worker !== null
        ? withoutSecrets(worker as Record<string, unknown>)
        : worker
    );
  return cleaned;
}
