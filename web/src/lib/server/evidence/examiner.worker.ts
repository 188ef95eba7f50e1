import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { recognise, recogniseOr, type Recognised } from '@tromix/core/formats/recognise';
import { readHar } from '@tromix/core/pages/read-har';
import { splitOtlpProfiles, type SplitProfile } from '@tromix/core/profile/otlp/split';
import { inflated } from '../ingest/body';
import type { Outcome } from '../ingest/outcome';
import { wholeContent } from './examine/examiner';
import type { Examined, Examiner } from './kind';
import { KINDS_ON_SERVER } from './kinds';
import { openStored, type StoredFile } from './stored-file';

/** Looks at an uploaded file off the server's own thread: what it is, and whether it can be read whole. */
class EvidenceExaminer {
  /** @param id SHA-256 of the content, in hexadecimal */
  examine(path: string, maxBytes: number, id: string): Promise<Outcome<Examined>> {
    return refusing(async () => {
      const file = await openStored(path);
      const recognised = await kindOf(file, maxBytes);
      if (recognised.kind === 'traces') {
        // They are read by the writer: here only whether they are whole, and not too long.
        await wholeContent(file, maxBytes);
        return recognised;
      }
      if (recognised.kind === 'pages') {
        const content = await wholeContent(file, maxBytes);
        return { ...recognised, loads: readHar(content, id) };
      }
      const examiner = (await KINDS_ON_SERVER[recognised.kind].examiner()) as Examiner<EvidenceKind>;
      return (await examiner(file, recognised.format, { maxBytes })) as Examined;
    });
  }

  /** Takes the profiles out of an OTLP message. @param most of them; the others are counted alone */
  split(
    { body, gzip }: { body: Uint8Array; gzip: boolean },
    maxBytes: number,
    most: number
  ): Promise<Outcome<{ profiles: SplitProfile[]; more: number }>> {
    return refusing(() => {
      const profiles: SplitProfile[] = [];
      let more = 0;
      for (const profile of splitOtlpProfiles(gzip ? inflated(body, maxBytes) : body))
        if (profiles.length < most) profiles.push(profile);
        else more++;
      return { profiles, more };
    });
  }
}
export type { EvidenceExaminer };

/** What the content is refused for is an answer. */
async function refusing<T>(read: () => T | Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: true, value: await read() };
  } catch (cause) {
    if (!(cause instanceof EvidenceError)) throw cause;
    return { ok: false, code: cause.code, message: cause.message, offset: cause.offset };
  }
}

/** By its beginning; what that does not tell, or not with certainty where the gzip data is damaged, is recognised by the whole. */
async function kindOf(file: StoredFile, maxBytes: number): Promise<Recognised> {
  return (
    (file.head.length > 0 ? recogniseOr(file.head) : null) ?? recognise(await wholeContent(file, maxBytes))
  );
}

expose(new EvidenceExaminer(), nodeEndpoint(parentPort!));
