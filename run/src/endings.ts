import { renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { inspect } from 'node:util';
import { isMainThread } from 'node:worker_threads';

/** Folder into which a process writes how it ended; set by `tromix run`, which hands it over. */
const FOLDER = process.env.TROMIX_RUN_ENDS;

interface Report {
  header: Record<string, unknown>;
}

/** Has the process write down how it ends by an exception that nobody catches, or by a fatal error of the runtime. Nothing that the program sees or prints changes. */
export function noteEndings(): void {
  if (!FOLDER || !isMainThread) return;
  const startedAtMs = Date.now() - process.uptime() * 1000;
  process.on('uncaughtExceptionMonitor', (thrown: unknown) => {
    try {
      const file = path.join(FOLDER, `end-${process.pid}.json`);
      const end = {
        startedAtMs,
        endedAtMs: Date.now(),
        thrown: wordsOf(thrown),
        nodeReport: reportOf(thrown)
      };
      writeFileSync(`${file}.part`, JSON.stringify(end));
      renameSync(`${file}.part`, file);
    } catch {
      // It ends all the same.
    }
  });
  reportFatalErrors(FOLDER);
}

/** As the runtime prints it, with its causes. */
const wordsOf = (thrown: unknown): string => {
  const words = inspect(thrown, { breakLength: 120 });
  return thrown instanceof Error ? words : `Uncaught ${words}`;
};

/** What the runtime knows of itself at this moment. Its secrets are left out before it is handed over. */
function reportOf(thrown: unknown): Report {
  const error = thrown instanceof Error ? thrown : new Error(String(thrown));
  const report = process.report.getReport(error) as unknown as Report;
  return { ...report, header: { ...report.header, event: 'Exception', trigger: 'Exception' } };
}

/** Out of memory nothing of the program runs any more: the runtime writes its report itself. Reports that the program asks for go where they go otherwise. */
function reportFatalErrors(folder: string): void {
  const { report } = process;
  const own = { directory: report.directory, filename: report.filename };
  const ours = { directory: folder, filename: `fatal-${process.pid}.json` };
  const write = report.writeReport.bind(report) as (...args: unknown[]) => string;
  if (report.reportOnFatalError || report.reportOnSignal) return;
  report.reportOnFatalError = true;
  Object.assign(report, ours);
  report.writeReport = (...args: unknown[]) => {
    Object.assign(report, own);
    try {
      return write(...args);
    } finally {
      Object.assign(report, ours);
    }
  };
}
