import type { Warning } from '@tromix/core/formats/evidence-error';
import type { StoredFile } from '../../../web/src/lib/server/evidence/stored-file';
import type { Scratch } from '../scratch';

/** A file that is inspected. */
export interface InspectedFile {
  path: string;
  bytes: number;
  stored: StoredFile;
  /** The whole content, inflated. @throws EvidenceError as `gunzip`. */
  content: () => Promise<Uint8Array>;
}

export interface InspectOptions {
  /** How many requests, functions and findings; 0 for all. */
  top: number;
  /** Closed when the results have been read: long lists of them still come from files. */
  scratch: Scratch;
}

/** How files of a kind are inspected and printed. */
export interface KindOnCommandLine<Format, Part, Body> {
  /**
   * Reads one file.
   * @returns what it gives; files that `join` by an equal text are one result, in the place of the first of them.
   * @throws EvidenceError as the reader.
   */
  read: (
    file: InspectedFile,
    format: Format,
    options: InspectOptions
  ) => Promise<{ part: Part; join?: string }>;
  /** What is said of the parts that belong together. */
  inspect: (parts: Part[], options: InspectOptions) => Body & { warnings: Warning[] };
  /** As lines for a terminal. */
  lines: (body: Body) => Iterable<string>;
}
