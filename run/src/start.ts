import { register } from 'node:module';
import { pathToFileURL } from 'node:url';
import { diag } from '@opentelemetry/api';
import { dumpNearLimit } from './near-limit';
import { noteEndings } from './endings';
import { isTool } from './tools';
import { startTracing } from './tracing';

/** Set in a process that is traced already. A worker thread has a place of its own and starts anew. */
const STARTED = Symbol.for('tromix.run.started');

/** Set while the loader’s own thread starts: it requires this too, and is no program. */
const IN_LOADER = 'TROMIX_RUN_IN_LOADER';

/** Starts what watches the program, once in each process and thread. @param more what is done besides */
export function startUnnoticed(more?: () => void): void {
  const place = globalThis as { [STARTED]?: boolean };
  if (place[STARTED] || process.env[IN_LOADER] || isTool(process.argv[1] ?? '')) return;
  place[STARTED] = true;
  try {
    // Problems of the exporter (nobody listens) are no concern of the program.
    diag.disable();
    instrumentModules();
    startTracing();
    noteEndings();
    dumpNearLimit();
    more?.();
  } catch {
    // The program runs without being seen.
  }
}

/** ES modules are instrumented by a hook of the loader; what is required, without. */
function instrumentModules(): void {
  process.env[IN_LOADER] = '1';
  try {
    register('@opentelemetry/instrumentation/hook.mjs', pathToFileURL(__filename));
  } finally {
    delete process.env[IN_LOADER];
  }
}
