import type { KINDS_ON_COMMAND_LINE } from '../kinds';
import { KINDS } from '@tromix/core/evidence/kinds';
import type { TraceFormat } from '@tromix/core/formats/otlp/recognise';
import type { TraceBatch } from '@tromix/core/formats/otlp/traces';
import type { HeapFormat } from '@tromix/core/heap/heap-index';
import type { InspectedHeap } from '@tromix/core/inspect/heap';
import type { Profile } from '@tromix/core/profile/model';
import { readProfile, type ProfileFormat } from '@tromix/core/profile/read';
import type { Sides } from '@tromix/core/sides';
import { failed, recognisedAt } from '../inspect';
import { heap } from '../kinds/heap';
import { batchOf } from '../kinds/traces';
import { Scratch } from '../scratch';

/** The files of one side, read. */
export interface ReadSide {
  traces: TraceBatch[];
  profiles: { file: string; profile: Profile }[];
  heaps: { file: string; heap: InspectedHeap }[];
}
export type ComparedKind = keyof ReadSide;

/** What can be held against each other, by the kind of evidence. */
const COMPARED: Partial<Record<keyof typeof KINDS_ON_COMMAND_LINE, ComparedKind>> = {
  traces: 'traces',
  profile: 'profiles',
  heap: 'heaps'
};
export const KIND_NAMES: Record<ComparedKind, string> = {
  traces: 'traces',
  profiles: 'profiles',
  heaps: 'heap dumps'
};

/** Reads some files of one side. @returns null where one cannot be read, which is said to `complain` */
export async function readSide(
  files: readonly string[],
  complain: (message: string) => void
): Promise<ReadSide | null> {
  const side: ReadSide = { traces: [], profiles: [], heaps: [] };
  let complaints = 0;
  for (const path of files) {
    try {
      const { file, kind, format } = await recognisedAt(path);
      switch (COMPARED[kind]) {
        case 'traces':
          side.traces.push(await batchOf(file, format as TraceFormat));
          break;
        case 'profiles':
          side.profiles.push({
            file: path,
            profile: readProfile(await file.content(), format as ProfileFormat).profile
          });
          break;
        case 'heaps': {
          const scratch = new Scratch();
          try {
            const { part } = await heap.read(file, format as HeapFormat, { top: 0, scratch });
            // Worked out one by one as they are asked for: nobody asks here, and their dump is closed.
            side.heaps.push({
              file: path,
              heap: { ...part, largest: [], duplicateStrings: { ...part.duplicateStrings, top: [] } }
            });
          } finally {
            scratch.close();
          }
          break;
        }
        default:
          complaints++;
          complain(
            `${path}: Expected traces, profiles or heap dumps, but it is a ${KINDS[kind as keyof typeof KINDS].label}.`
          );
      }
    } catch (cause) {
      complaints++;
      complain(`${path}: ${failed(path, cause).error.message}`);
    }
  }
  return complaints === 0 ? side : null;
}

/** Kinds that one side has and the other has not. */
export const missingKinds = ({ before, after }: Sides<ReadSide>): { kind: ComparedKind; side: 'A' | 'B' }[] =>
  (Object.keys(KIND_NAMES) as ComparedKind[]).flatMap((kind) => {
    const [a, b] = [before[kind].length > 0, after[kind].length > 0];
    return a === b ? [] : [{ kind, side: a ? ('B' as const) : ('A' as const) }];
  });
