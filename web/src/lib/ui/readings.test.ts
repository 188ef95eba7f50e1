import { describe, expect, it } from 'vitest';
import { flameLayout } from '@tromix/core/profile/flame-layout';
import { functionWeights, heaviestBranch, maxRecursion } from '@tromix/core/profile/functions';
import { slice } from '@tromix/core/profile/slice';
import { readV8CpuProfile } from '@tromix/core/profile/v8-cpu';
import { plainText, type Words } from '@tromix/core/text/words';
import { emptyLedger } from '@tromix/core/trace/account';
import type { Overview } from '$lib/server/queries/overview';
import { loop, requestModel, stored, T0, type TestSpan } from '$lib/testing/stored-requests';
import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
import { ownEnd, placeOf, profileReading } from '$lib/ui/profile/profile-reading';
import { overviewReading } from '$lib/ui/overview/overview-reading';
import { coveringProfile, findingsOf, labelOf, shortLabelOf } from '$lib/ui/request/request-model';
import { requestReading } from '$lib/ui/request/request-reading';

const plain = (sentences: readonly Words[]): string =>
  sentences.map(plainText).join(' ').replaceAll('\u202f', ' ');

describe('modelOf', () => {
  it('books in the browser what the writer booked: same spans, same ledger', () => {
    const built = requestModel([stored(1, 0, 0, 400, undefined, 'GET /plan', 2), ...loop]);
    const { request, groups } = built;
    const findings = findingsOf(built);
    expect(request.ledger).toMatchObject({ database: 180e6, unseen: 165e6, ownCode: 55e6 });
    expect([...request.booked.values()].reduce((sum, ns) => sum + ns, 0)).toBe(400e6);
    expect(groups).toMatchObject([{ count: 12, distinct: 12 }]);
    expect(findings.map(({ rule }) => rule)).toEqual(['query-per-row', 'blind-stretch']);
  });

  it('shortens the columns of a query, not what it reads from', () => {
    const { trace } = requestModel([stored(1, 0, 0, 400), ...loop]);
    const call = trace.tree.nodes[1].span;
    expect(labelOf(call)).toBe('select id, tonnes from manifest where id = ?');
    expect(shortLabelOf(call)).toBe('select … from manifest where id = ?');
    expect(shortLabelOf({ ...call, call: { ...call.call!, fingerprint: 'select * from a' } })).toBe(
      'select * from a'
    );
  });
});

describe('coveringProfile', () => {
  const one = requestModel([stored(1, 0, 0, 400, undefined, 'GET /plan', 2)]);
  const profile = {
    id: 'x',
    service: 'berths',
    host: 'quay-2',
    pid: 42,
    startedAtUs: T0 + 100_000,
    durationNs: 200e6
  };
  it('cuts the profile of the process to the stretch, as far as it reaches', () => {
    expect(coveringProfile(one, one.root, 150e6, 250e6, [profile])).toMatchObject({
      fromNs: 50e6,
      toNs: 150e6
    });
    expect(coveringProfile(one, one.root, 0, 400e6, [profile])).toMatchObject({ fromNs: 0, toNs: 200e6 });
  });
  it('takes none of another process, host or time', () => {
    for (const other of [
      { pid: 43 },
      { host: 'quay-9' },
      { service: 'tides' },
      { startedAtUs: T0 + 900_000 },
      { startedAtUs: T0 - 900_000 }
    ]) {
      expect(coveringProfile(one, one.root, 150e6, 250e6, [{ ...profile, ...other }])).toBeNull();
    }
    expect(coveringProfile(one, one.root, 150e6, 250e6, [{ ...profile, host: '' }])).not.toBeNull();
  });
});

describe('requestReading', () => {
  const reading = (spans: TestSpan[]): string => {
    const built = requestModel(spans);
    return plain(requestReading(built, findingsOf(built)));
  };
  it('names the loop, what it cost of what, and how often', () => {
    expect(reading([stored(1, 0, 0, 400, undefined, 'GET /plan', 2), ...loop])).toBe(
      'This request spent 180 ms of its 400 ms querying the database 12 times. The longest of these calls took 15 ms. Next comes unseen with 41 %. It made 12 calls.'
    );
  });
  it('names the account that holds most where no rule found a loop', () => {
    expect(reading([stored(1, 0, 0, 400, undefined, 'GET /plan', 2)])).toBe(
      'This request spent 400 ms of its 400 ms in unseen.'
    );
  });
});

describe('overviewReading', () => {
  const side = {
    perMinute: 10,
    meanNs: 100e6,
    p95Ns: 200e6,
    apdex: 1,
    failed: 0,
    failedShare: 0,
    callsPerRequest: 1,
    count: 100
  };
  const endpoint = {
    id: 1,
    service: 'berths',
    name: 'POST /berth',
    count: 50,
    failed: 0,
    perMinute: 5,
    share: 0.48,
    totalNs: 9e9,
    exclusiveNs: 8e9,
    meanNs: 180e6,
    p50Ns: 1,
    p95Ns: 1,
    slowestNs: 900e6,
    ledger: emptyLedger(),
    zones: { satisfied: 1, tolerating: 0, frustrated: 0 },
    tMs: 500,
    findings: 0,
    change: { verdict: 'slower' as const, ratio: 4.1, p: 0 }
  };
  const overview = (change: Partial<Overview>): Overview => ({
    window: { fromUs: 0, toUs: 1 },
    windows: { before: { fromUs: 0, toUs: 1 }, after: { fromUs: 1, toUs: 2 } },
    kind: 'endpoints',
    resolution: 'minute',
    stepMs: 60_000,
    guarded: false,
    change: { verdict: 'slower', ratio: 2.4, p: 0 },
    rows: [endpoint],
    rowCount: 1,
    holding: { count: 1, share: 1 },
    series: [],
    turn: { kind: 'release', id: 3, release: '7.3', service: 'berths', at: 0 },
    marks: [],
    fixed: [],
    before: side,
    after: { ...side, meanNs: 240e6 },
    growth: { ...emptyLedger(), database: 90e6, ownCode: 10e6 },
    all: { count: 100, exclusiveNs: 1, apdex: 1 },
    findings: [],
    ...change
  });
  it('says what became slower, where the new time goes, and where it shows', () => {
    const text = plain(overviewReading(overview({})));
    expect(text).toMatch(
      /^Since release 7\.3 of berths \(\d\d:\d\d\), an average request takes 2\.4 times as long\. 90 % of the added time is database\. POST \/berth changed most: 4\.1 times as long\./
    );
    expect(text).toContain(
      'POST /berth of berths takes 48 % of all time here: 50 requests of 180 ms on average.'
    );
  });
  it('says that it became shorter, or that nothing changed, or that nothing was recorded', () => {
    expect(plain(overviewReading(overview({ after: { ...side, meanNs: 50e6 } })))).toContain(
      'an average request is 50 % shorter'
    );
    expect(plain(overviewReading(overview({ after: side, turn: { kind: 'period' } })))).toContain(
      'Compared with the time before, an average request takes as long as before, within 15 %.'
    );
    expect(overviewReading(overview({ all: { count: 0, exclusiveNs: 0, apdex: NaN } }))).toEqual([
      ['No requests in this time range.']
    ]);
  });
  it('says so where only a few requests make the difference', () => {
    const change = { verdict: 'no clear change' as const, ratio: 1, p: 0.6 };
    expect(plain(overviewReading(overview({ change })))).toContain(
      '2.4 times as long. Most requests take about as long as before: a few make the difference.'
    );
  });
  it('credits a fix', () => {
    const fixed = [
      {
        title: 'One query per row',
        endpoint: 'POST /berth',
        release: '7.4',
        after: 25,
        before: 30,
        found: 28
      }
    ];
    expect(plain(overviewReading(overview({ fixed })))).toContain(
      'One query per row of POST /berth is gone since 7.4: 0 of 25 requests, 28 of 30 before.'
    );
  });
  it('claims no change where one side is empty', () => {
    expect(plain(overviewReading(overview({ before: { ...side, count: 0, meanNs: NaN } })))).not.toContain(
      'average request takes'
    );
  });
});

describe('profileReading', () => {
  const names: [string, string][] = [
    ['(root)', ''],
    ['serve', 'node:internal/http'],
    ['plan', 'file:///srv/quillhaven/berths/plan.ts'],
    ['sort', '/x/node_modules/sorter/index.js'],
    ['(idle)', '']
  ];
  const children = [[2, 5], [3], [4], [], []];
  const raw = (samples: number[]): Uint8Array =>
    new TextEncoder().encode(
      JSON.stringify({
        nodes: names.map(([functionName, url], i) => ({
          id: i + 1,
          callFrame: { functionName, url, lineNumber: i ? 9 : -1, columnNumber: 0 },
          children: children[i]
        })),
        startTime: 0,
        endTime: samples.length * 1000,
        samples,
        timeDeltas: samples.map((_, i) => (i ? 1000 : 0))
      })
    );
  const open = (samples: number[]): { opened: OpenedProfile; view: ProfileView } => {
    const { profile, warnings } = readV8CpuProfile(raw(samples));
    const weights = slice(profile);
    const opened = {
      valueType: profile.valueType,
      unit: profile.unit,
      frames: profile.frames,
      threads: profile.threads.map((name) => ({ name, weight: weights.sum })),
      labels: [],
      measures: [],
      recordedNs: 0,
      recorded: null,
      deepest: maxRecursion(profile.frames, profile),
      durationNs: profile.durationNs,
      samples: samples.length,
      strip: new Float32Array(1),
      warnings
    };
    return {
      opened,
      view: {
        ...weights,
        show: 'root',
        nodeFrame: profile.nodeFrame,
        nodeParent: profile.nodeParent,
        thinned: false,
        bands: [],
        closed: [],
        packages: [],
        findings: [],
        neighbours: null,
        files: [],
        file: '',
        lines: null,
        unopened: 0,
        layout: flameLayout(profile, weights),
        functions: functionWeights(profile.frames, profile, weights),
        heaviest: heaviestBranch(profile, weights),
        tookMs: 0
      }
    };
  };

  it('tells computing from idling, the function that burns, and the own code it is reached from', () => {
    const { opened, view } = open([4, 4, 4, 3, 5, 5]);
    expect(plain(profileReading(opened, view, 6e6))).toBe(
      'In these 6 ms the process computed for 4 ms and was idle for 2 ms. 75 % of the CPU is spent in sort itself (sorter index.js:10). The heaviest branch leads to plan at berths/plan.ts:10, with 100 %.'
    );
    expect(opened.frames[view.nodeFrame[ownEnd(opened, view)]].name).toBe('plan');
  });

  it('says that time was waited for, not computed, and that an empty cut holds no sample', () => {
    const idle = open([5, 5, 5]);
    expect(plain(profileReading(idle.opened, idle.view, 3e6))).toContain('idle for all of these 3 ms');
    expect(plain(profileReading(idle.opened, { ...idle.view, samples: 0 }, 1))).toContain(
      'No samples in this selection'
    );
  });

  it('writes a place as it is read', () => {
    const frame = {
      name: 'f',
      column: 1,
      line: 4,
      package: '',
      kind: 'app' as const,
      file: 'file:///srv/quillhaven/berths/rank.ts'
    };
    expect(placeOf(frame)).toBe('berths/rank.ts:4');
    expect(placeOf({ ...frame, kind: 'runtime', file: 'node:internal/timers' })).toBe('node:timers');
    expect(placeOf({ ...frame, kind: 'native', file: '' })).toBe('native');
    expect(placeOf({ ...frame, kind: 'gc', file: '' })).toBe('');
  });
});
