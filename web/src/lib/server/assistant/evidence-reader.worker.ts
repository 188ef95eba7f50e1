import { readFile } from 'node:fs/promises';
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { compareSides, type Comparison } from '@tromix/core/compare/comparison';
import type { ComparedSide } from '@tromix/core/compare/compared-side';
import type { Crash, CrashFormat } from '@tromix/core/crashes/crash';
import { readCrash } from '@tromix/core/crashes/read';
import { gunzip } from '@tromix/core/formats/gzip';
import { inspectProfile, type InspectedProfile } from '@tromix/core/inspect/profile';
import { inspectThreads, type InspectedThreads } from '@tromix/core/inspect/threads';
import { functionWeights } from '@tromix/core/profile/functions';
import { neighboursOf, type Neighbour } from '@tromix/core/profile/neighbours';
import type { Profile } from '@tromix/core/profile/model';
import { readProfile, type ProfileFormat } from '@tromix/core/profile/read';
import { slice } from '@tromix/core/profile/slice';
import type { Sides } from '@tromix/core/sides';
import { joinSeries } from '@tromix/core/threads/join';
import type { ThreadFormat } from '@tromix/core/threads/model';
import { readThreads } from '@tromix/core/threads/read';
import { findingsOf, modelOf } from '$lib/ui/request/request-model';
import { ticketText } from '$lib/ui/request/ticket-text';
import type { RequestPage } from '../queries/request-page';

/** A file of evidence, and how it is read. */
export interface ReadFile<Format> {
  path: string;
  format: Format;
  maxBytes: number;
}

const content = async ({ path, maxBytes }: ReadFile<unknown>): Promise<Uint8Array> =>
  gunzip(await readFile(path), { maxBytes, setting: 'TROMIX_MAX_PROFILE_BYTES' });

/** A function of a profile with who calls it and whom it calls, the heaviest first; weights in the profile's unit. */
export interface FunctionInProfile {
  name: string;
  file: string;
  line: number;
  self: number;
  total: number;
  callers: { name: string; weight: number }[];
  callees: { name: string; weight: number }[];
}

/** Reads evidence and works out what takes long, off the server's own thread, for questions that come without a browser. */
class EvidenceReader {
  async crash(file: ReadFile<CrashFormat>): Promise<Crash> {
    return readCrash(await content(file), file.format);
  }

  async profile(file: ReadFile<ProfileFormat>, top: number): Promise<InspectedProfile> {
    return inspectProfile(readProfile(await content(file), file.format).profile, top);
  }

  /** @returns the functions whose name holds a text, the heaviest first, with their neighbours */
  async functions(
    file: ReadFile<ProfileFormat>,
    name: string,
    most: number
  ): Promise<{
    unit: Profile['unit'];
    valueType: Profile['valueType'];
    sum: number;
    found: FunctionInProfile[];
  }> {
    const { profile } = readProfile(await content(file), file.format);
    const weights = slice(profile);
    const wanted = name.toLowerCase();
    const named = ({ frame, weight }: Neighbour) => ({ name: profile.frames[frame].name, weight });
    const found = functionWeights(profile.frames, profile, weights)
      .filter(({ frame }) => profile.frames[frame].name.toLowerCase().includes(wanted))
      .sort((a, b) => b.total - a.total)
      .slice(0, most)
      .map(({ frame, self, total }): FunctionInProfile => {
        const { name, file, line } = profile.frames[frame];
        const { callers, callees } = neighboursOf(profile, weights, frame);
        return { name, file, line, self, total, callers: callers.map(named), callees: callees.map(named) };
      });
    return { unit: profile.unit, valueType: profile.valueType, sum: weights.sum, found };
  }

  async threads(files: readonly ReadFile<ThreadFormat>[], top: number): Promise<InspectedThreads> {
    const parts = await Promise.all(
      files.map(async (file) => readThreads(await content(file), file.format).series)
    );
    return inspectThreads(joinSeries(parts), top);
  }

  /** A request as Markdown: where its time went, findings, calls. @param address where its view is */
  request(page: RequestPage, address: string): Promise<string> {
    const model = modelOf(page);
    return Promise.resolve(ticketText(model, findingsOf(model), address));
  }

  compare(sides: Sides<ComparedSide>): Promise<Comparison> {
    return Promise.resolve(compareSides(sides));
  }
}
export type { EvidenceReader };

expose(new EvidenceReader(), nodeEndpoint(parentPort!));
