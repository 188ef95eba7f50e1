import { fileURLToPath } from 'node:url';
import type { SourcePlace, SourcePlaces } from './source-places';

/** Frames that are looked at: the program's own is seldom deeper below a client library. */
const DEPTH = 40;

/** Where the program made a call. */
export interface CallSite extends SourcePlace {
  function: string;
}

/**
 * The innermost frame of the running stack that is the program's own: neither the runtime's, nor below `node_modules`, nor ours.
 * @param own file of this program, of which frames are passed over
 * @returns null where there is none within `DEPTH` frames
 */
export function callSite(places: SourcePlaces, own: string): CallSite | null {
  for (const frame of stack()) {
    const named = frame.getFileName();
    if (!named || named.startsWith('node:') || named.includes('node_modules')) continue;
    const file = named.startsWith('file:') ? fileURLToPath(named) : named;
    if (file === own || (!file.startsWith('/') && !/^[A-Z]:\\/i.test(file))) continue;
    const place = places.original(file, frame.getLineNumber() ?? 0, frame.getColumnNumber() ?? 0);
    return { ...place, function: frame.getFunctionName() ?? '' };
  }
  return null;
}

/** The running stack as V8 has it. What the program set up for its own stacks is put back. */
function stack(): NodeJS.CallSite[] {
  const { prepareStackTrace, stackTraceLimit } = Error;
  try {
    Error.stackTraceLimit = DEPTH;
    Error.prepareStackTrace = (_, frames) => frames;
    return new Error().stack as unknown as NodeJS.CallSite[];
  } finally {
    Error.prepareStackTrace = prepareStackTrace;
    Error.stackTraceLimit = stackTraceLimit;
  }
}
