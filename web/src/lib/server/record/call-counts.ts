import * as v from 'valibot';
import { lowerBound } from '@tromix/core/binary-search';
import { groupBy } from '@tromix/core/group-by';
import { InspectorError, type Inspector } from './inspector';

/** How long a process may take to write its counts or one of its sources. */
const WITHIN_MS = 30_000;
/** Scripts whose sources are asked for, those with most calls first. */
const MAX_SCRIPTS = 500;
/** Functions that are told, those called most often first. */
const MAX_FUNCTIONS = 50_000;

const Coverage = v.object({
  result: v.object({
    result: v.array(
      v.object({
        scriptId: v.string(),
        url: v.string(),
        functions: v.array(
          v.object({
            functionName: v.string(),
            ranges: v.pipe(
              v.array(
                v.object({
                  startOffset: v.number(),
                  endOffset: v.number(),
                  count: v.pipe(v.number(), v.integer(), v.minValue(0))
                })
              ),
              v.minLength(1)
            )
          })
        )
      })
    )
  })
});
type Script = v.InferOutput<typeof Coverage>['result']['result'][number];
const Source = v.object({ result: v.object({ scriptSource: v.string() }) });

/** A place as V8 profiles have it: lines and columns count from 0. */
export interface CallFrame {
  functionName: string;
  scriptId: string;
  url: string;
  lineNumber: number;
  columnNumber: number;
}

export interface CountedFunction {
  callFrame: CallFrame;
  count: number;
}

/**
 * Counts every call of every function: V8's precise coverage with call counts (Chrome DevTools Protocol, domain `Profiler`). Each call is noted
 * where it happens, also of functions that V8 inlines; that costs those that are called most.
 */
export const startCounting = (inspector: Inspector): Promise<string> =>
  inspector.send('Profiler.startPreciseCoverage', { callCount: true, detailed: false });

export const stopCounting = (inspector: Inspector): Promise<string> =>
  inspector.send('Profiler.stopPreciseCoverage');

/** Takes what was counted. @returns the reply, to be told by `functionsOf` when nothing is recorded any more */
export const takeCounts = (inspector: Inspector): Promise<string> =>
  inspector.send('Profiler.takePreciseCoverage', {}, WITHIN_MS);

/**
 * Counts by function, at the very places samples name them by.
 * @param taken what `takeCounts` answered @param frames the functions that samples name @throws InspectorError where the answer is none
 */
export async function functionsOf(
  inspector: Inspector,
  taken: string,
  frames: readonly CallFrame[]
): Promise<CountedFunction[]> {
  const parsed = v.safeParse(Coverage, JSON.parse(taken));
  if (!parsed.success)
    throw new InspectorError('The process answered with something that is no count of calls.');
  const scripts = parsed.output.result.result
    .filter(({ url }) => url !== '')
    .map((script) => ({
      ...script,
      functions: script.functions.filter(({ ranges: [{ count }] }) => count > 0)
    }))
    .filter(({ functions }) => functions.length > 0)
    .sort((a, b) => callsOf(b) - callsOf(a))
    .slice(0, MAX_SCRIPTS);
  const sampled = groupBy(frames, ({ scriptId }) => scriptId);
  await inspector.send('Debugger.enable', {}, WITHIN_MS);
  try {
    const counted: CountedFunction[] = [];
    for (const script of scripts) {
      const reply = await inspector.send(
        'Debugger.getScriptSource',
        { scriptId: script.scriptId },
        WITHIN_MS
      );
      const source = v.safeParse(Source, JSON.parse(reply));
      if (source.success)
        counted.push(
          ...placedIn(script, source.output.result.scriptSource, sampled.get(script.scriptId) ?? [])
        );
    }
    return counted.sort((a, b) => b.count - a.count).slice(0, MAX_FUNCTIONS);
  } finally {
    await inspector.send('Debugger.disable').catch(() => undefined);
  }
}

const callsOf = ({ functions }: Script): number =>
  functions.reduce((most, { ranges: [{ count }] }) => Math.max(most, count), 0);

/**
 * Samples name a function by where its parameters begin, counts by where it begins and ends: a sampled place belongs to the innermost function
 * around it.
 */
function placedIn(
  { scriptId, url, functions }: Script,
  source: string,
  sampled: readonly CallFrame[]
): CountedFunction[] {
  const lines = lineStarts(source);
  const sampledAt = new Map<Script['functions'][number], CallFrame>();
  for (const frame of sampled) {
    const at = (lines[frame.lineNumber] ?? 0) + frame.columnNumber;
    let innermost: Script['functions'][number] | undefined;
    for (const one of functions) {
      const [{ startOffset, endOffset }] = one.ranges;
      if (startOffset > at || endOffset <= at || one.functionName !== frame.functionName) continue;
      const [within] = innermost?.ranges ?? [];
      if (!within || endOffset - startOffset < within.endOffset - within.startOffset) innermost = one;
    }
    if (innermost) sampledAt.set(innermost, frame);
  }
  return functions.map((one) => {
    const [{ startOffset, count }] = one.ranges;
    const lineNumber = lowerBound(lines, startOffset + 1) - 1;
    const callFrame = sampledAt.get(one) ?? {
      functionName: one.functionName,
      scriptId,
      url,
      lineNumber,
      columnNumber: startOffset - lines[lineNumber]
    };
    return { callFrame, count };
  });
}

function lineStarts(source: string): number[] {
  const starts = [0];
  for (let at = source.indexOf('\n'); at >= 0; at = source.indexOf('\n', at + 1)) starts.push(at + 1);
  return starts;
}

const Sampled = v.object({
  nodes: v.array(
    v.object({
      callFrame: v.object({
        functionName: v.string(),
        scriptId: v.string(),
        url: v.string(),
        lineNumber: v.number(),
        columnNumber: v.number()
      })
    })
  )
});

/** The functions that a profile, JSON, names; each once. */
export function framesIn(profile: string): CallFrame[] {
  const found = v.safeParse(Sampled, JSON.parse(profile));
  if (!found.success) return [];
  const byPlace = new Map<string, CallFrame>();
  for (const { callFrame } of found.output.nodes)
    if (callFrame.lineNumber >= 0)
      byPlace.set(
        `${callFrame.scriptId} ${callFrame.lineNumber} ${callFrame.columnNumber} ${callFrame.functionName}`,
        callFrame
      );
  return [...byPlace.values()];
}

/** A profile with counts as one more member, which readers of V8 profiles pass over where they do not know it. */
export function withCalls(profile: string, functions: readonly CountedFunction[]): string {
  const end = profile.lastIndexOf('}');
  return `${profile.slice(0, end)},"functionCalls":${JSON.stringify(functions)}}`;
}

/** A profile without samples, for a recording that only counts. Times in microseconds of the engine's clock. */
export const withoutSamples = (startTime: number, endTime: number): string =>
  JSON.stringify({
    nodes: [
      {
        id: 1,
        callFrame: { functionName: '(root)', scriptId: '0', url: '', lineNumber: -1, columnNumber: -1 },
        hitCount: 0
      }
    ],
    startTime,
    endTime,
    samples: [],
    timeDeltas: []
  });
