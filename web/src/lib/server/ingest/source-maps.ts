import { loggedException } from '@tromix/core/failures/logged-failures';
import { exceptionsOf } from '@tromix/core/failures/failed-span';
import type { MapFrame } from '@tromix/core/failures/identity';
import { frameMapper } from '@tromix/core/failures/map-frames';
import { sourceMapOf } from '../sources/source-text';
import type { TraceRecords } from './accounting';

/** Built files whose maps are kept in memory; frames of further ones stay as they are. */
const MAX_FILES = 500;
const BUILT = /(?:file:\/\/)?[^\s()]+\.[cm]?js(?=:\d+:\d+)/g;
const DEPENDENCY = /\/node_modules\//;

/** Maps frames of built files back to their originals, by the maps in the source folders: so the same program is known built or not. */
export class SourceMaps {
  /** undefined where there are no source folders. */
  readonly mapFrame: MapFrame | undefined;
  readonly #folders: readonly string[];
  readonly #texts = new Map<string, string | null>();

  constructor(folders: readonly string[]) {
    this.#folders = folders;
    this.mapFrame = folders.length > 0 ? frameMapper((file) => this.#texts.get(file) ?? null) : undefined;
  }

  /** Reads the maps of files that are new among the stacks of some traces. */
  async load(traces: Iterable<TraceRecords>): Promise<void> {
    if (this.#folders.length === 0) return;
    const found = new Set<string>();
    for (const { spans, logged } of traces) {
      const stacks = [
        ...spans.flatMap((span) => exceptionsOf(span).map(({ exception }) => exception.stack)),
        ...logged.map((record) => loggedException(record).stack)
      ];
      for (const stack of stacks)
        for (const [file] of stack.matchAll(BUILT))
          if (!this.#texts.has(file) && !DEPENDENCY.test(file)) found.add(file);
    }
    for (const file of found) {
      if (this.#texts.size >= MAX_FILES) return;
      this.#texts.set(file, await sourceMapOf(this.#folders, file).catch(() => null));
    }
  }
}
