import { describe, expect, it } from 'vitest';
import { rawSpan } from '../testing/spans';
import { SpanKind, type AttributeValue, type Span } from '../trace/span';
import { maskSpan } from './mask';

const masked = (
  attributes: Record<string, AttributeValue>,
  kind: number = SpanKind.CLIENT,
  keep: string[] = [],
  hashKey = 1
): Span =>
  maskSpan(rawSpan({ id: 'x', from: 0, to: 1, kind, attributes }), {
    hashKey,
    keepLiteralsOf: new Set(keep)
  });
const db = (text: string, more: Record<string, AttributeValue> = {}): Record<string, AttributeValue> => ({
  'db.system.name': 'postgresql',
  'db.query.text': text,
  ...more
});

describe('maskSpan', () => {
  it('stores no literal of a statement, under current and older names', () => {
    for (const attributes of [
      db("select * from t where name = 'hush'"),
      { 'db.system': 'mysql', 'db.statement': "select * from t where name = 'hush'" }
    ]) {
      const span = masked(attributes);
      expect(span.call?.fingerprint).toBe('select * from t where name = ?');
      expect(JSON.stringify([...span.attributes])).not.toContain('hush');
    }
  });

  it('tells equal literals from different ones by a keyed hash, and says so where parameters are unknown', () => {
    const hash = (value: string, key = 1): number | null =>
      masked(db('select * from t where id = $1', { 'db.query.parameter.0': value }), SpanKind.CLIENT, [], key)
        .call!.literals;
    expect(hash('7')).toBe(hash('7'));
    expect(hash('7')).not.toBe(hash('8'));
    expect(hash('7')).not.toBe(hash('7', 2));
    expect(masked(db('select * from t where id = $1')).call!.literals).toBeNull();
    expect(masked(db('select 1 from t')).call!.literals).not.toBeNull();
  });

  it('masks a statement of 1 MB, in time that grows with its length', () => {
    const rows = (count: number): string =>
      `insert into line (id, note) values ${Array.from({ length: count }, (_, i) => `(${i}, 'hush ${i}')`).join(', ')}`;
    const timed = (sql: string): number => {
      const begun = performance.now();
      const { call } = masked(db(sql));
      expect(call?.fingerprint).toBe('insert into line(id, note) values (?, ?)');
      return performance.now() - begun;
    };
    expect(rows(55_000).length).toBeGreaterThan(1_000_000);
    timed(rows(5000));
    // Sixteen times the text: quadratic work would take 256 times as long.
    const [short, long] = [timed(rows(3500)), timed(rows(56_000))];
    expect(long / Math.max(1, short)).toBeLessThan(100);
  });

  it.each([
    "select 'never closed and secret = hush",
    'select $tag$ hush never closed',
    'select /* hush never closed',
    "}{ hush-less ' but quoted hush ' ]]",
    "select * from t where a = 'hush' and ((((",
    "\u0000\u0001 '\u0000hush'",
    "MERGE ⚓ 'hush' \\' hush"
  ])('keeps nothing secret of SQL that no parser reads: %s', (sql) => {
    const span = masked(db(sql));
    expect(span.call?.kind).toBe('database');
    expect(span.call?.fingerprint).not.toMatch(/'[^']*hush/);
    expect(JSON.stringify([...span.attributes])).not.toContain("'hush");
  });

  it('drops attributes that carry secrets', () => {
    const span = masked({
      'http.request.header.authorization': 'Bearer x',
      'session.id': '1',
      'db.user': 'u',
      api_key: 'k',
      'user.password': 'p',
      'http.request.header.cookie': 'c',
      'db.system.name': 'sqlite',
      monkey: 'stays'
    });
    expect([...span.attributes.keys()]).toEqual(['db.system.name', 'monkey']);
  });

  it('masks the values in URLs and who signs in by them', () => {
    const span = masked({
      'http.request.method': 'GET',
      'url.full': 'https://u:pw@tides:80/w/7?station=9&token=abc#x',
      'url.query': 'station=9'
    });
    expect(span.attributes.get('url.full')).toBe('https://tides:80/w/7?station=?&token=?');
    expect(span.attributes.get('url.query')).toBe('station=?');
    expect(span.call?.fingerprint).toBe('GET tides:80/w/:id?station&token');
  });

  it('keeps statements of a service whose owner says so', () => {
    expect(masked(db("select 'kept'"), SpanKind.CLIENT, ['berths']).attributes.get('db.query.text')).toBe(
      "select 'kept'"
    );
  });

  it('keeps attributes called like object internals as data', () => {
    const raw = rawSpan({ id: 'x', from: 0, to: 1 });
    raw.attributes.set('__proto__', 'a').set('constructor', 'b');
    expect([...maskSpan(raw, { hashKey: 1, keepLiteralsOf: new Set() }).attributes]).toEqual([
      ['__proto__', 'a'],
      ['constructor', 'b']
    ]);
  });
});
