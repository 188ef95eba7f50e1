import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { maskSpan } from '../core/src/calls/mask';
import { decodeTracesProtobuf } from '../core/src/formats/otlp/traces';
import { accountTrace, type RequestAccount, type TraceAccount } from '../core/src/trace/requests';
import type { Span } from '../core/src/trace/span';
import { buildTree } from '../core/src/trace/tree';

const FOLDER = path.join(import.meta.dirname, 'traces');
const ENDING = '.otlp.gz';

/** Names of the recorded scenarios. */
export const RECORDED = readdirSync(FOLDER)
  .filter((name) => name.endsWith(ENDING))
  .map((name) => name.slice(0, -ENDING.length));

export interface Recorded {
  trace: TraceAccount;
  request: RequestAccount;
}

/** Every account of time in a recorded scenario, longest first. */
export function recorded(scenario: string): Recorded[] {
  const { spans } = decodeTracesProtobuf(gunzipSync(readFileSync(path.join(FOLDER, scenario + ENDING))));
  const traces = new Map<string, Span[]>();
  for (const raw of spans) {
    const span = maskSpan(raw, { hashKey: 1, keepLiteralsOf: new Set() });
    traces.set(raw.traceId, [...(traces.get(raw.traceId) ?? []), span]);
  }
  return [...traces.values()]
    .map((list) => accountTrace(buildTree(list)))
    .flatMap((trace) => trace.requests.map((request) => ({ trace, request })))
    .sort((a, b) => b.request.durationNs - a.request.durationNs);
}
