import { readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { originalPositionFor, TraceMap } from '@jridgewell/trace-mapping';

/** A line of a file. */
export interface SourcePlace {
  file: string;
  /** From 1. */
  line: number;
}

/** A built file longer than this is not read for its map. */
const MAX_BYTES = 32 * 1024 * 1024;
const COMMENT = /\/\/[#@] sourceMappingURL=(\S+)\s*$/;
const DATA = /^data:application\/json[^,]*;base64,/;

/** Places in built files as places in their sources, by the source maps (ECMA-426) the files name. */
export class SourcePlaces {
  readonly #maps = new Map<string, TraceMap | null>();

  /** @param column from 1 @returns the place itself where there is no map, or none for it. */
  original(file: string, line: number, column: number): SourcePlace {
    const map = this.#mapOf(file);
    const found =
      map && line > 0 ? originalPositionFor(map, { line, column: Math.max(0, column - 1) }) : null;
    if (!found?.source) return { file, line };
    return { file: sourceFile(file, found.source), line: found.line };
  }

  #mapOf(file: string): TraceMap | null {
    let map = this.#maps.get(file);
    if (map === undefined) this.#maps.set(file, (map = readMap(file)));
    return map;
  }
}

const sourceFile = (built: string, source: string): string =>
  source.startsWith('file:') ? fileURLToPath(source) : path.resolve(path.dirname(built), source);

/** The map a file names; null where it names none, or one that cannot be read. */
function readMap(file: string): TraceMap | null {
  try {
    if (statSync(file).size > MAX_BYTES) return null;
    const [, url] = COMMENT.exec(readFileSync(file, 'utf8').trimEnd()) ?? [];
    if (!url) return null;
    const text = DATA.test(url)
      ? Buffer.from(url.replace(DATA, ''), 'base64').toString('utf8')
      : readFileSync(path.resolve(path.dirname(file), decodeURIComponent(url)), 'utf8');
    return new TraceMap(text);
  } catch {
    return null;
  }
}
