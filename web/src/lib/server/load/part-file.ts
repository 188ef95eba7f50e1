import { appendFile, readFile, writeFile } from 'node:fs/promises';
import { LoadPlan } from '@tromix/core/load/plan';
import { COLUMNS, Samples, sentAndEnded } from '@tromix/core/load/samples';
import type { LoadRun } from '@tromix/core/load/run-file';
import * as v from 'valibot';

/** What is known of a run when it starts. */
export type RunBegun = Pick<LoadRun, 'key' | 'name' | 'startedAtUs' | 'plan'>;

/**
 * The file of a run under way, so that a server that is killed keeps what was measured: a line of JSON that says what it is, then a line of packed
 * samples for each batch.
 */
export class PartFile {
  readonly #path: string;
  #writing: Promise<void>;

  constructor(path: string, begun: RunBegun) {
    this.#path = path;
    this.#writing = writeFile(path, `${JSON.stringify(begun)}\n`);
  }

  /** Appends samples; batches stay in their order. */
  add(packed: Float64Array): Promise<void> {
    const line = `[${packed.map(Math.round).join(',')}]\n`;
    this.#writing = this.#writing.then(() => appendFile(this.#path, line));
    return this.#writing;
  }
}

const Begun = v.object({ key: v.string(), name: v.string(), startedAtUs: v.number(), plan: LoadPlan });

/** What a part file holds, as far as it is whole; null where not even its first line is. The last line may be cut off. */
export async function readPart(path: string): Promise<LoadRun | null> {
  const [first, ...lines] = (await readFile(path, 'utf8')).split('\n');
  const begun = v.safeParse(Begun, parsed(first));
  if (!begun.success) return null;
  const samples = new Samples();
  for (const line of lines) {
    const packed = parsed(line);
    if (Array.isArray(packed) && packed.length % COLUMNS.length === 0)
      samples.addPacked(Float64Array.from(packed as number[]));
  }
  const endUs = sentAndEnded(samples).ended.reduce((last, us) => Math.max(last, us), 0);
  return { ...begun.output, samples, endUs, end: 'cut-off' };
}

function parsed(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return null;
  }
}
