import { originalPositionFor, sourceContentFor, TraceMap } from '@jridgewell/trace-mapping';
import { enclosingFunction } from './enclosing-function';
import type { MapFrame } from './identity';
import { isApplication, type StackFrame } from './stack-frame';

/**
 * Maps frames of built files back to their originals (source map format, ECMA-426). A map names what stands at a place, not the function around it: that is found in the
 * text of the original, where the map carries it; else the built name stays.
 * @param mapOf text of the source map of a built file, by the name frames have; null where there is none
 */
export function frameMapper(mapOf: (file: string) => string | null): MapFrame {
  const maps = new Map<string, TraceMap | null>();
  return (frame) => {
    if (frame.line < 1 || frame.column < 1) return frame;
    let map = maps.get(frame.file);
    if (map === undefined) maps.set(frame.file, (map = parsed(mapOf(frame.file))));
    return map ? mappedFrame(frame, map) : frame;
  };
}

function parsed(text: string | null): TraceMap | null {
  if (text === null) return null;
  try {
    return new TraceMap(text);
  } catch {
    return null;
  }
}

function mappedFrame(frame: StackFrame, map: TraceMap): StackFrame {
  const found = originalPositionFor(map, { line: frame.line, column: frame.column - 1 });
  if (found.source === null) return frame;
  const text = sourceContentFor(map, found.source);
  const name = text === null ? frame.function : enclosingFunction(text, found.line, found.column);
  return {
    ...frame,
    function: name,
    file: found.source,
    line: found.line,
    column: found.column + 1,
    application: isApplication(found.source, name)
  };
}
