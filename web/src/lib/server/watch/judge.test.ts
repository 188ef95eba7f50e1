import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import * as v from 'valibot';
import type { Notice } from '@tromix/core/watch/notice';
import { Watch } from '@tromix/core/watch/watch';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { MINUTE, openWriter, request, sendRequests, type Made } from '$lib/testing/sent-requests';
import { openDatabase } from '../db/client';
import { LocalDatabase, objectsOf } from '../db/database';
import type { Writer } from '../ingest/writer';
import { Judge, MOST_LATE, SETTLE_MS } from './judge';
import { readStandings } from './stored';

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
const BEGIN = NOW - 60 * MINUTE;
const FIRST = BEGIN / MINUTE;

let folder: string;
let url: string;
let writer: Writer;
let database: LocalDatabase;

beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-judge-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  database = new LocalDatabase(openDatabase(url));
});
afterEach(async () => {
  await writer.close();
  await database.close();
  await rm(folder, { recursive: true, force: true });
});

const judgeNamed = (name = 'quay-1'): Judge => new Judge(database, writer.store, name);
/** The moment at which a minute, counted from the beginning, can be judged. */
const after = (minute: number): number => BEGIN + (minute + 1) * MINUTE + SETTLE_MS;

const watch = (change: object = {}, condition: object = {}): Watch =>
  v.parse(Watch, {
    condition: {
      watched: { of: 'requests', figure: 'p95', place: { service: 'berths', endpoint: 'GET /plan' } },
      limit: { by: 'number', side: 'above', on: 500e6, off: 400e6 },
      over: 1,
      for: 2,
      silentAfter: 3,
      ...condition
    },
    ...change
  });

let traces = 0;
/** 20 requests a minute, so long as the list says, milliseconds; 0 for a minute without any. */
const load = (minutes: readonly number[], more: Partial<Made> = {}): object[] =>
  minutes.flatMap((ms, minute) =>
    ms === 0
      ? []
      : Array.from({ length: 20 }, (_, i) =>
          request({ trace: ++traces, at: BEGIN + minute * MINUTE + i * 2500, ms, ...more })
        )
  );

interface FiringRow {
  watch_id: string;
  on_minute: number;
  off_minute: number | null;
  ended: string;
  late_minutes: number;
  silenced: number;
  worst: number;
}
const firings = (): Promise<FiringRow[]> =>
  objectsOf<FiringRow>(database, 'SELECT * FROM watch_firings ORDER BY on_minute');
const sent = async (): Promise<Notice[]> =>
  (await objectsOf<{ body: string }>(database, 'SELECT body FROM deliveries ORDER BY rowid')).map(
    ({ body }) => JSON.parse(body) as Notice
  );
const hook = (least = 'notice'): Promise<void> =>
  writer.change('putHook', { id: 'h', name: 'desk', url: 'http://127.0.0.1:1/', secret: 'c2VjcmV0', least });

describe('judging watches', () => {
  it('comes on and goes off as requests say, minute by minute, and tells both', async () => {
    await hook();
    await writer.change('addWatch', 'w', watch({ severity: 'urgent', owner: 'harbour desk' }), FIRST);
    await sendRequests(writer, load([100, 600, 700, 450, 300, 300, 300]));
    const judge = judgeNamed();
    for (let minute = 0; minute < 7; minute++) await judge.judge(after(minute));
    expect(await firings()).toMatchObject([
      {
        watch_id: 'w',
        on_minute: FIRST + 2,
        off_minute: FIRST + 5,
        ended: 'off',
        late_minutes: 0,
        silenced: 0
      }
    ]);
    expect((await firings())[0].worst / 700e6).toBeCloseTo(1, 1);
    const notices = await sent();
    expect(notices.map(({ type }) => type)).toEqual(['watch.on', 'watch.off']);
    expect(notices[0].data).toMatchObject({
      watch: { id: 'w', severity: 'urgent', owner: 'harbour desk' },
      figure: 'p95',
      lateMinutes: 0,
      links: { watch: '/watches/w' }
    });
    expect(notices[0].data.sentence.replaceAll(/\s/gu, ' ')).toMatch(
      /^p95 of GET \/plan of berths is (?:69|70)\d ms, above 500 ms\.$/
    );
    expect(notices[1].data.sentence.replaceAll(/\s/gu, ' ')).toContain(
      'is back within its limit after 3 min'
    );
  });

  it('judges late what it missed, says so, and tells only of what is not over', async () => {
    await hook();
    await writer.change('addWatch', 'w', watch(), FIRST);
    await sendRequests(
      writer,
      load([100, 600, 700, 300, 300, 300, ...new Array<number>(20).fill(100), 900, 900])
    );
    await judgeNamed().judge(after(27));
    expect(await firings()).toMatchObject([
      { on_minute: FIRST + 2, off_minute: FIRST + 4, late_minutes: 25 },
      { on_minute: FIRST + 27, off_minute: null, late_minutes: 0 }
    ]);
    // The first is over for more than ten minutes: it is history.
    expect((await sent()).map(({ data }) => data.since)).toEqual([
      new Date(BEGIN + 28 * MINUTE).toISOString()
    ]);
  });

  it('goes on after a restart where it stopped, in the middle of a row', async () => {
    await writer.change('addWatch', 'w', watch(), FIRST);
    await sendRequests(writer, load([100, 600, 700, 300, 300]));
    await judgeNamed().judge(after(1));
    expect(await firings()).toHaveLength(0);
    await judgeNamed().judge(after(4));
    expect(await firings()).toMatchObject([{ on_minute: FIRST + 2, off_minute: FIRST + 4 }]);
  });

  it('says no minute twice: one that was judged is not judged again', async () => {
    await writer.change('addWatch', 'w', watch(), FIRST);
    await sendRequests(writer, load([600, 600]));
    const judge = judgeNamed();
    expect(await judge.judge(after(1))).toMatchObject({ minutes: 2, news: true });
    expect(await judge.judge(after(1) + 5000)).toMatchObject({ minutes: 0 });
    expect(await judgeNamed().judge(after(1))).toMatchObject({ minutes: 0 });
    expect(await firings()).toHaveLength(1);
  });

  it('is done by one of two servers on one database, and by the other once that one is silent', async () => {
    await writer.change('addWatch', 'w', watch(), FIRST);
    await sendRequests(writer, load([600, 600, 600, 600, 600, 600]));
    expect((await judgeNamed('quay-1').judge(after(1))).judges).toBe(true);
    expect((await judgeNamed('quay-2').judge(after(2))).judges).toBe(false);
    expect((await judgeNamed('quay-1').judge(after(2))).judges).toBe(true);
    expect((await judgeNamed('quay-2').judge(after(5))).judges).toBe(true);
    expect((await judgeNamed('quay-1').judge(after(5))).judges).toBe(false);
    expect(await firings()).toHaveLength(1);
  });

  it('says that there is no data any more, of a scope that matches nothing too', async () => {
    await hook();
    await writer.change(
      'addWatch',
      'gone',
      watch(
        { tellsNoData: true },
        {
          watched: { of: 'requests', figure: 'p95', place: { service: 'berths', release: '9.9' } }
        }
      ),
      FIRST
    );
    await writer.change('addWatch', 'ends', watch(), FIRST);
    await sendRequests(writer, load([600, 600, 0, 0, 0]));
    await judgeNamed().judge(after(4));
    const standings = await readStandings(database);
    expect([standings.get('gone')?.state, standings.get('ends')?.state]).toEqual(['no data', 'no data']);
    expect(await firings()).toMatchObject([
      { watch_id: 'ends', on_minute: FIRST + 1, off_minute: FIRST + 4, ended: 'no data' }
    ]);
    // Whoever was told that it is on is told that nothing tells of it any more.
    expect((await sent()).map(({ type, data }) => `${data.watch.id} ${type}`).toSorted()).toEqual([
      'ends watch.no-data',
      'ends watch.on',
      'gone watch.no-data'
    ]);
  });

  it('tells nobody of one that is silenced, nor of one that matters less than was asked', async () => {
    await hook('warning');
    await writer.change('addWatch', 'silent', watch(), FIRST);
    await writer.change('silenceWatch', 'silent', (NOW + 60 * MINUTE) * 1000);
    await writer.change('addWatch', 'small', watch({ severity: 'notice' }), FIRST);
    await sendRequests(writer, load([600, 600]));
    await judgeNamed().judge(after(1));
    expect((await firings()).map(({ watch_id, silenced }) => [watch_id, silenced]).toSorted()).toEqual([
      ['silent', 1],
      ['small', 0]
    ]);
    expect(await sent()).toEqual([]);
  });

  it('begins anew when its condition is changed, and ends what it was on for', async () => {
    await writer.change('addWatch', 'w', watch(), FIRST);
    await sendRequests(writer, load([600, 600]));
    await judgeNamed().judge(after(1));
    await writer.change('changeWatch', 'w', 1, watch({}, { for: 5 }), true);
    expect(await firings()).toMatchObject([{ ended: 'changed' }]);
    expect((await readStandings(database)).get('w')).toMatchObject({ state: 'new', firing: null });
    // A change made from an older version does nothing.
    await writer.change('changeWatch', 'w', 1, watch({}, { for: 9 }), false);
    const [{ body }] = await objectsOf<{ body: string }>(database, 'SELECT body FROM watches');
    expect((JSON.parse(body) as Watch).condition.for).toBe(5);
  });

  it('goes on as it was where the change was made from an older version', async () => {
    await writer.change('addWatch', 'w', watch(), FIRST);
    await writer.change('changeWatch', 'w', 1, watch({ severity: 'urgent' }), false);
    await sendRequests(writer, load([600, 600]));
    await judgeNamed().judge(after(1));
    // Somebody else’s change came first: this one has another condition, and does nothing.
    await writer.change('changeWatch', 'w', 1, watch({}, { for: 9 }), true);
    expect(await firings()).toMatchObject([{ off_minute: null, ended: '' }]);
    expect((await readStandings(database)).get('w')).toMatchObject({ state: 'on' });
  });

  it('lets one that is changed or removed while it is judged say nothing', async () => {
    await hook();
    await writer.change('addWatch', 'changed', watch({ actions: { case: true } }), FIRST);
    await writer.change('addWatch', 'removed', watch(), FIRST);
    await writer.change('addWatch', 'stays', watch(), FIRST);
    await sendRequests(writer, load([600, 600]));
    // What is read was read before; what is stored comes after.
    let stored = 0;
    const between = async (): Promise<void> => {
      await writer.change('changeWatch', 'changed', 1, watch({}, { for: 9 }), true);
      await writer.change('removeWatch', 'removed');
    };
    // The first is the lease; the second is what was judged.
    const judge = new Judge(
      database,
      async (make) => {
        if (++stored === 2) await between();
        await writer.store(make);
      },
      'quay-1'
    );
    await judge.judge(after(1));
    expect((await firings()).map(({ watch_id }) => watch_id)).toEqual(['stays']);
    expect((await sent()).map(({ data }) => data.watch.id)).toEqual(['stays']);
    expect((await readStandings(database)).get('changed')).toMatchObject({ state: 'new' });
    expect((await readStandings(database)).has('removed')).toBe(false);
  });

  it('waits for requests that are not booked yet, two minutes at the most', async () => {
    await writer.change('addWatch', 'w', watch({}, { for: 1 }), FIRST);
    await sendRequests(writer, load([600, 600, 600, 600]));
    const judge = judgeNamed();
    expect(await judge.judge(after(0), 40_000)).toMatchObject({ minutes: 0 });
    expect(await judge.judge(after(1) + 50_000, 100_000)).toMatchObject({ minutes: 1 });
    expect(await judge.judge(after(2), 0)).toMatchObject({ minutes: 2 });
    // Behind again: what was judged is not judged anew.
    expect(await judge.judge(after(2) + 5000, 40_000)).toMatchObject({ minutes: 0 });
    expect(await firings()).toMatchObject([{ on_minute: FIRST }]);
  });

  it('goes on with the present when the clock was set back, and ends what began in the future', async () => {
    await writer.change('addWatch', 'w', watch(), FIRST);
    await sendRequests(writer, load([100, 100, 100, 100, 100, 100, 600, 600]));
    await judgeNamed().judge(after(7));
    expect(await firings()).toMatchObject([{ on_minute: FIRST + 7, off_minute: null }]);
    const judge = judgeNamed();
    await judge.judge(after(1));
    expect(await firings()).toMatchObject([{ ended: 'clock' }]);
    expect((await readStandings(database)).get('w')).toMatchObject({ state: 'off', judged: FIRST + 1 });
    await judge.judge(after(2));
    expect((await readStandings(database)).get('w')).toMatchObject({ judged: FIRST + 2 });
  });

  it('judges no more than a week of a clock that jumped ahead, or of a server that stood still', async () => {
    await writer.change('addWatch', 'w', watch(), FIRST);
    await sendRequests(writer, load([600, 600]));
    await judgeNamed().judge(after(1));
    const year = 525_600;
    await judgeNamed().judge(after(year));
    expect((await readStandings(database)).get('w')).toMatchObject({
      state: 'no data',
      judged: FIRST + year
    });
    expect(await firings()).toMatchObject([{ off_minute: FIRST + year - MOST_LATE + 3 }]);
  });

  it('holds a release against the one before it', async () => {
    const condition = {
      watched: { of: 'requests', figure: 'p50', place: { service: 'berths' } },
      limit: { by: 'before', against: 'release', on: 0.2, off: 0.1 },
      over: 5,
      for: 1
    };
    await writer.change('addWatch', 'w', watch({}, condition), FIRST);
    await sendRequests(writer, [
      ...load(new Array<number>(10).fill(100), { release: '7.2' }),
      ...load([...new Array<number>(10).fill(0), ...new Array<number>(5).fill(180)], { release: '7.3' })
    ]);
    await judgeNamed().judge(after(14));
    const [firing] = await firings();
    // The first of the later release are enough to tell.
    expect(firing).toMatchObject({ on_minute: FIRST + 10, off_minute: null });
    const standing = (await readStandings(database)).get('w')!;
    expect(standing.value! / 180e6).toBeCloseTo(1, 1);
    expect(standing.before! / 100e6).toBeCloseTo(1, 1);
  });
});
