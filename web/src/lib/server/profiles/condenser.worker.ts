import { readFile } from 'node:fs/promises';
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { readProfile, type ProfileFormat } from '@tromix/core/profile/read';
import { condense, type CondensedProfile, type ServedRequest } from '@tromix/core/profile/sums/condense';
import { mergeSlices, type MergedSlice, type SliceSums } from '@tromix/core/profile/sums/merge-slices';
import { cutText } from '@tromix/core/text/well-formed';
import { ownTime } from '@tromix/core/trace/own-time';
import { TooEntangled } from '@tromix/core/trace/booking';
import { accountTrace } from '@tromix/core/trace/requests';
import type { Resource, Span } from '@tromix/core/trace/span';
import { buildTree } from '@tromix/core/trace/tree';
import { groupBy } from '@tromix/core/group-by';
import { spansFrom, type StoredSpans } from '$lib/stored-spans';

export interface RequestPlace {
  traceId: string;
  spanId: string;
  endpoint: number;
}

export type Condensed =
  | { ok: true; valueType: 'cpu' | 'wall'; condensed: CondensedProfile }
  /** Why there are no sums. */
  | { ok: false; message: string };

/** Longer names and paths are cut: the store keeps each once, but for long. */
const MAX_NAME = 500;

/** Sums recordings up, off the server's own thread. */
class Condenser {
  /**
   * When requests computed themselves.
   * @param spans of their traces, as stored: JSON
   * @param originUs epoch microseconds from which the answer is told
   */
  ownTimes(
    spans: Uint8Array,
    resources: ReadonlyMap<number, Resource>,
    places: readonly RequestPlace[],
    originUs: number
  ): Promise<ServedRequest[]> {
    const stored = JSON.parse(new TextDecoder().decode(spans)) as StoredSpans;
    const byTrace = groupBy(spansFrom(stored, resources), ({ traceId }) => traceId);
    const wanted = new Map(places.map((place) => [`${place.traceId} ${place.spanId}`, place.endpoint]));
    return Promise.resolve([...byTrace.values()].flatMap((trace) => servedIn(trace, wanted, originUs)));
  }

  async condense(
    file: { path: string; format: ProfileFormat; maxBytes: number },
    startedAtUs: number,
    requests: readonly ServedRequest[]
  ): Promise<Condensed> {
    try {
      const content = gunzip(await readFile(file.path), {
        maxBytes: file.maxBytes,
        setting: 'TROMIX_MAX_PROFILE_BYTES'
      });
      const { profile } = readProfile(content, file.format);
      const { valueType } = profile;
      if (profile.unit !== 'nanoseconds' || (valueType !== 'cpu' && valueType !== 'wall'))
        return { ok: false, message: 'It does not weigh CPU or time.' };
      if (profile.durationNs === 0 && !profile.recordedNs)
        return { ok: false, message: 'It does not say for how long it was recorded.' };
      const condensed = condense(profile, startedAtUs, requests);
      for (const frame of condensed.frames) {
        frame.name = cutText(frame.name, MAX_NAME);
        frame.file = cutText(frame.file, MAX_NAME);
      }
      return { ok: true, valueType, condensed };
    } catch (cause) {
      if (cause instanceof EvidenceError) return { ok: false, message: cause.message };
      // A file that went meanwhile, or one that its reader did not foresee: it is not tried for ever.
      return { ok: false, message: `It could not be read: ${(cause as Error).message}` };
    }
  }

  /** Sums of many slices as one. */
  merge(slices: readonly SliceSums[]): Promise<MergedSlice> {
    return Promise.resolve(mergeSlices(slices));
  }
}
export type { Condenser };

function servedIn(
  spans: readonly Span[],
  wanted: ReadonlyMap<string, number>,
  originUs: number
): ServedRequest[] {
  try {
    const { tree, requests } = accountTrace(buildTree(spans));
    return requests.flatMap((request) => {
      const { span } = tree.nodes[request.node];
      const endpoint = wanted.get(`${span.traceId} ${span.spanId}`);
      if (endpoint === undefined) return [];
      const fromNs = (span.startUs - originUs) * 1000 + span.startNs;
      return [{ endpoint, fromNs, own: ownTime(tree, request, originUs) }];
    });
  } catch (cause) {
    if (cause instanceof TooEntangled) return [];
    throw cause;
  }
}

expose(new Condenser(), nodeEndpoint(parentPort!));
