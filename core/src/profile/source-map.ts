import { decodedMappings, originalPositionFor, sourceContentFor, TraceMap } from '@jridgewell/trace-mapping';
import { Warnings, type Warning } from '../formats/evidence-error';
import { whoseV8 } from '../whose/v8';
import { TOP_LEVEL } from './frame-table';
import type { Frame, LineTicks, Profile } from './model';

export interface MappedProfile {
  profile: Profile;
  /** Texts the maps carry, by the file name frames have now. */
  sources: Map<string, string>;
  warnings: Warning[];
}

/**
 * Maps frames and line ticks of built files back to their originals.
 * Source: source map format, revision 3 (ECMA-426). V8 gives a function's line and column, which map exactly; of a sample it
 * gives the line alone, so ticks are mapped only where a whole built line comes from one original line (not in minified files).
 * @param maps text of the source map of each file, by the name frames have.
 */
export function applySourceMaps(profile: Profile, maps: ReadonlyMap<string, string>): MappedProfile {
  const warnings = new Warnings();
  const sources = new Map<string, string>();
  const known = new Map<string, TraceMap>();
  for (const [file, text] of maps) {
    const map = parse(text);
    if (map && fits(map, file, profile.frames)) known.set(file, map);
    else
      warnings.add(
        'map-does-not-fit',
        'A source map cannot be read or does not fit its file; the frames stay as recorded.'
      );
  }
  if (known.size === 0) return { profile, sources, warnings: warnings.list() };
  const frames = profile.frames.map((frame) => {
    const map = known.get(frame.file);
    return map ? mapFrame(frame, map, sources) : frame;
  });
  const mapped = { ...profile, frames, ticks: profile.ticks && mapTicks(profile, profile.ticks, known) };
  return { profile: mapped, sources, warnings: warnings.list() };
}

function parse(text: string): TraceMap | null {
  try {
    const map = new TraceMap(text);
    return map.version === 3 && map.sources.length > 0 ? map : null;
  } catch {
    return null;
  }
}

/** A map fits where it knows at least one of the functions of its file. */
const fits = (map: TraceMap, file: string, frames: readonly Frame[]): boolean =>
  frames.some((frame) => frame.file === file && original(map, frame) !== null);

function original(
  map: TraceMap,
  { line, column }: Frame
): { source: string; line: number; column: number; name: string | null } | null {
  if (line < 1) return null;
  const found = originalPositionFor(map, { line, column: Math.max(0, column - 1) });
  const { source, line: at, column: from, name } = found;
  return source === null ? null : { source, line: at, column: from, name };
}

/** A built file's top level is of its only original; of several it is nobody's alone. */
function originalFile(map: TraceMap): ReturnType<typeof original> {
  const [source, ...others] = map.sources;
  return source && others.length === 0 ? { source, line: 1, column: 0, name: null } : null;
}

function mapFrame(frame: Frame, map: TraceMap, sources: Map<string, string>): Frame {
  const found = frame.name === TOP_LEVEL ? originalFile(map) : original(map, frame);
  if (!found) return frame;
  const file = resolve(frame.file, found.source);
  const text = sourceContentFor(map, found.source);
  if (text !== null) sources.set(file, text);
  const { kind, package: from } = whoseV8(frame.name, file);
  return {
    ...frame,
    name: found.name ?? frame.name,
    file,
    line: found.line,
    column: found.column + 1,
    kind,
    package: from
  };
}

/** The path of a source beside the built file, with `.` and `..` taken out. */
function resolve(built: string, source: string): string {
  if (/^[a-z][a-z0-9+.-]*:/i.test(source) || source.startsWith('/')) return source;
  const scheme = /^[a-z][a-z0-9+.-]*:\/\//i.exec(built)?.[0] ?? '';
  const parts: string[] = [];
  const path = built.slice(scheme.length).split('/').slice(0, -1).concat(source.split('/'));
  for (const part of path) {
    if (part === '..' && parts.length > 1) parts.pop();
    else if (part !== '.' && part !== '..') parts.push(part);
  }
  return scheme + parts.join('/');
}

function mapTicks(profile: Profile, ticks: LineTicks, maps: ReadonlyMap<string, TraceMap>): LineTicks {
  const lineOf = new Map<TraceMap, Map<number, number>>();
  const originalLine = (map: TraceMap, line: number): number => {
    let lines = lineOf.get(map);
    if (!lines) lineOf.set(map, (lines = new Map<number, number>()));
    let found = lines.get(line);
    if (found === undefined) lines.set(line, (found = onlyLine(map, line)));
    return found;
  };
  const start = new Int32Array(ticks.start.length);
  const line: number[] = [];
  const counts: number[] = [];
  for (let node = 0; node < profile.nodeFrame.length; node++) {
    const map = maps.get(profile.frames[profile.nodeFrame[node]].file);
    for (let i = ticks.start[node]; i < ticks.start[node + 1]; i++) {
      const at = map ? originalLine(map, ticks.line[i]) : ticks.line[i];
      if (at < 1) continue;
      line.push(at);
      counts.push(ticks.ticks[i]);
    }
    start[node + 1] = line.length;
  }
  return { start, line: Int32Array.from(line), ticks: Float64Array.from(counts) };
}

/** The original line of a built line, where it is one; 0 where several share it. */
function onlyLine(map: TraceMap, line: number): number {
  let only = 0;
  let source = -1;
  for (const segment of decodedMappings(map)[line - 1] ?? []) {
    if (segment.length === 1) continue;
    const [, from, at] = segment;
    if (source >= 0 && (from !== source || at + 1 !== only)) return 0;
    source = from;
    only = at + 1;
  }
  return only;
}
