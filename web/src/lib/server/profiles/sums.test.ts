import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Frame } from '@tromix/core/profile/model';
import type { CondensedProfile } from '@tromix/core/profile/sums/condense';
import { mergeSlices, type SliceSums } from '@tromix/core/profile/sums/merge-slices';
import { sumScope } from '@tromix/core/profile/sums/scope-sums';
import { functionWeights } from '@tromix/core/profile/functions';
import { slice } from '@tromix/core/profile/slice';
import { scopeFrom } from '$lib/scope';
import { openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import { fetchSums, type FetchedSums } from '$lib/workers/fetch-sums';
import type { ChangeName, Changes } from '../ingest/changes';
import { MAX_STACKS, type SummedProfile } from '../ingest/profile-sums';
import type { Writer } from '../ingest/writer';

/** Sums of recordings in a database of their own: stored, sent to a page, and thinned out. */
let folder: string;
let url: string;
let writer: Writer;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => ({
  ...(await import('$lib/testing/local-workers')).localWorkers(() => url),
  change: <N extends ChangeName>(name: N, ...args: Parameters<Changes[N]>) => writer.change(name, ...args),
  callCondenser: (work: (condenser: object) => unknown) =>
    work({ merge: (slices: SliceSums[]) => Promise.resolve(mergeSlices(slices)) })
}));
const { profileSums, sumsInScope } = await import('../queries/profile-sums');
const { select } = await import('../db/reader');
const { thinOut, KEEP_SUMS_DAYS } = await import('./thin-out');

const NOW = Date.UTC(2026, 10, 30, 12);
const HOUR = 3600_000;

const frame = (name: string): Frame => ({
  name,
  file: '/quay/plan.js',
  line: 1,
  column: 1,
  package: '',
  kind: 'app'
});

/** Ten seconds in which `serve` took so many milliseconds, `serve;plan` and `serve;plan;plan` as many each. */
const condensed = (atMs: number, ms: number, endpoint = 0): CondensedProfile => {
  const weights = new Map([0, 1, 2].map((stack) => [stack, ms * 1000]));
  return {
    frames: [frame('serve'), frame('plan')],
    stackFrame: Int32Array.of(0, 1, 1),
    stackParent: Int32Array.of(-1, 0, 1),
    slices: [
      {
        startUs: atMs * 1000,
        spanUs: 10e6,
        samples: 1000,
        busyUs: 3 * ms * 1000,
        idleUs: 10e6 - 3 * ms * 1000,
        weights,
        endpoints: endpoint
          ? [
              {
                endpoint,
                requests: 2,
                busyUs: ms * 1000,
                sharedUs: 0,
                weights: new Map([[1, ms * 1000]])
              }
            ]
          : []
      }
    ]
  };
};
let made = 0;
const summed = (of: CondensedProfile, more: Partial<SummedProfile> = {}): SummedProfile => ({
  source: (++made).toString(16).padStart(64, '0'),
  service: 'berths',
  host: 'quay-2',
  release: '7.2',
  pid: 7,
  valueType: 'cpu',
  requests: 0,
  condensed: of,
  ...more
});
const scopeOf = (query: string) => scopeFrom(new URLSearchParams(query));

async function sent(query: string): Promise<FetchedSums> {
  const parts: Uint8Array[] = [];
  for await (const part of profileSums(scopeOf(query), '', NOW)) parts.push(part);
  // As a network may cut it.
  const cut = Buffer.concat(parts);
  vi.stubGlobal('fetch', () =>
    Promise.resolve(
      new Response(
        new ReadableStream({
          start(controller) {
            for (let at = 0; at < cut.length; at += 1000) controller.enqueue(cut.subarray(at, at + 1000));
            controller.close();
          }
        })
      )
    )
  );
  return fetchSums('/api/profile-sums');
}
const figures = async (query: string): Promise<Record<string, [number, number]>> => {
  const { dictionary, slices, head } = await sent(query);
  const { profile } = sumScope(dictionary, slices, head.ofEndpoint, 'cpu');
  return Object.fromEntries(
    functionWeights(profile.frames, profile, slice(profile)).map(({ frame: of, self, total }) => [
      profile.frames[of].name,
      [self / 1e6, total / 1e6]
    ])
  );
};

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-sums-'));
});
beforeEach(async () => {
  url = `file:${path.join(folder, `${made}.sqlite`)}`;
  writer = await openWriter(url);
  vi.useFakeTimers({ now: NOW, toFake: ['Date'] });
});
afterAll(async () => {
  vi.useRealTimers();
  await rm(folder, { recursive: true, force: true });
});

describe('sums of recordings', () => {
  it('of a scope are those of its recordings, each stack stored once', async () => {
    await writer.addProfileSums(summed(condensed(NOW - 60_000, 100)));
    await writer.addProfileSums(summed(condensed(NOW - 30_000, 200)));
    await writer.addProfileSums(summed(condensed(NOW - 30_000, 400), { release: '7.3', host: 'quay-3' }));
    await writer.addProfileSums(summed(condensed(NOW - 2 * HOUR, 50)));
    await writer.addProfileSums(summed(condensed(NOW - 30_000, 800), { service: 'tides' }));
    expect(await figures('service=berths')).toEqual({ plan: [1400, 1400], serve: [700, 2100] });
    expect(await figures('service=berths&release=7.2')).toEqual({ plan: [600, 600], serve: [300, 900] });
    expect(await figures('service=berths&host=!quay-2')).toEqual({ plan: [800, 800], serve: [400, 1200] });
    expect(await figures('service=berths&last=6h&host=quay-2')).toEqual({
      plan: [700, 700],
      serve: [350, 1050]
    });
    expect(await sumsInScope(scopeOf(''), NOW)).toEqual({ slices: 4, services: ['berths', 'tides'] });
    expect(await select('SELECT count(*) AS n FROM profile_stacks')).toEqual([{ n: 6 }]);
  });

  it('of an endpoint are its shares alone, with its requests', async () => {
    const at = NOW - 60_000;
    await sendRequests(writer, [request({ trace: 1, at, ms: 50 })]);
    const [{ id }] = await select<{ id: number }>("SELECT id FROM endpoints WHERE name = 'GET /plan'");
    await writer.addProfileSums(summed(condensed(at, 100, id)));
    await writer.addProfileSums(summed(condensed(NOW - 30_000, 300)));
    const { dictionary, slices, head } = await sent('endpoint=GET+/plan');
    expect(head.endpoints.map(({ name }) => name)).toContain('GET /plan');
    const sums = sumScope(dictionary, slices, true, 'cpu');
    expect([sums.requests, sums.busyUs, sums.coveredUs]).toEqual([2, 100_000, 10e6]);
    expect(await figures('endpoint=GET+/plan')).toEqual({ plan: [100, 100], serve: [0, 100] });
  });

  it('take the place of earlier ones of the same recording, and go with it unless they are to stay', async () => {
    const one = summed(condensed(NOW - 60_000, 100));
    await writer.addProfileSums(one);
    await writer.addProfileSums({ ...one, condensed: condensed(NOW - 60_000, 200) });
    expect(await figures('')).toEqual({ plan: [400, 400], serve: [200, 600] });
    const other = summed(condensed(NOW - 30_000, 10));
    await writer.addProfileSums(other);
    await writer.change('keepProfileSums', other.source);
    await writer.change('removeEvidence', other.source);
    await writer.change('removeEvidence', one.source);
    expect(await figures('')).toEqual({ plan: [20, 20], serve: [10, 30] });
  });

  it('of more than a day ago are put together by the hour, and those of long ago go', async () => {
    const old = NOW - 26 * HOUR;
    for (let minute = 0; minute < 30; minute++) {
      const one = summed(condensed(old + minute * 60_000, 10), { pid: minute < 20 ? 7 : 8 });
      await writer.addProfileSums(one);
      await writer.change('keepProfileSums', one.source);
    }
    const before = await figures('last=7d');
    await writer.addProfileSums(
      summed(condensed(NOW - (KEEP_SUMS_DAYS * 24 + 1) * HOUR, 10), { source: 'f'.repeat(64) })
    );
    await writer.change('keepProfileSums', 'f'.repeat(64));
    expect(await thinOut(NOW)).toBe(1);
    expect(await thinOut(NOW)).toBe(0);
    expect(await select('SELECT span_us AS span, length_us AS length, samples FROM profile_slices')).toEqual([
      { span: 300e6, length: 29 * 60e6 + 10e6, samples: 30_000 }
    ]);
    expect(await figures('last=7d')).toEqual(before);
  });

  it('of a service with stacks without end stay bounded: new ones end at their callers', async () => {
    await writer.addProfileSums(summed(condensed(NOW - 60_000, 100)));
    const many = MAX_STACKS + 10;
    const deep = condensed(NOW - 30_000, 1);
    await writer.addProfileSums(
      summed({
        ...deep,
        frames: [frame('serve'), ...Array.from({ length: 1000 }, (_, i) => frame(`made ${i}`))],
        stackFrame: Int32Array.from({ length: many }, (_, i) => (i === 0 ? 0 : 1 + (i % 1000))),
        // A thousand below each of the ones before.
        stackParent: Int32Array.from({ length: many }, (_, i) => (i === 0 ? -1 : Math.floor((i - 1) / 1000))),
        slices: [{ ...deep.slices[0], weights: new Map([[many - 1, 7000]]) }]
      })
    );
    const [{ n }] = await select<{ n: number }>('SELECT count(*) AS n FROM profile_stacks');
    expect(n).toBe(MAX_STACKS);
    expect((await figures('')).serve[1]).toBe(307);
  }, 60_000);
});
