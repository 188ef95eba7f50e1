import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { REQUEST_RULES } from '@tromix/core/findings/request-rules';
import type { FoundGroup } from '$lib/server/queries/found-group';
import { scopeFrom } from '$lib/scope';
import { isCallKind, partAccount, partNoun } from '$lib/ui/endpoint/part-kinds';
import { scopeParts } from '../shell/scope-parts';
import { sortRows } from '../tables/sort';
import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
import { changeLook } from './change';
import { toCsv, toTsv } from '@tromix/core/text/csv';
import { plainText } from '@tromix/core/text/words';
import { foundSentence } from '$lib/ui/findings/found-sentence';
import { axisTime, shortTime, timeRange } from './time';
import { uniqueKeys } from './unique-keys';
import { xmlText } from '@tromix/core/text/xml-text';
import { sdkSettings, uploadCommand } from '$lib/ui/shell/sending';

describe('a change', () => {
  it('has a sign, a size, a tone, and the test in words', () => {
    expect(changeLook({ verdict: 'slower', ratio: 2.13, p: 0.00001 })).toEqual({
      text: '▲ 2.1×',
      tone: 'worse',
      words:
        'Slower: the median is 2.13 times what it was. The probability of such a difference by chance is less than 0.0001 (rank test).'
    });
    expect(changeLook({ verdict: 'faster', ratio: 0.5, p: 0.0005 })).toMatchObject({
      text: '▼ 0.50×',
      tone: 'better'
    });
  });
  it('that is none, or of too few, says so without a tone', () => {
    expect(changeLook({ verdict: 'no clear change', ratio: 1.02, p: 0.3 })).toMatchObject({
      text: '=',
      tone: 'same'
    });
    expect(changeLook({ verdict: 'too few', ratio: NaN, p: NaN })).toMatchObject({ text: '–', tone: 'same' });
    expect(changeLook({ verdict: 'too few', ratio: NaN, p: NaN }).words).not.toContain('NaN');
  });
});

describe('a finding over many requests', () => {
  const found = (rule: string): FoundGroup =>
    ({
      rule,
      endpoint: 'POST /calls/:id/berth',
      service: 'berths',
      subject: 'plan',
      share: 0.31,
      typicalCalls: 214,
      sentence: 'A sentence of its own.'
    }) as FoundGroup;
  it.each(REQUEST_RULES.map(({ rule }) => rule))('is one sentence with its cost: %s', (rule) => {
    const sentence = plainText(foundSentence(found(rule))).replaceAll('\u202f', ' ');
    expect(sentence).toMatch(/31 %/);
    expect(sentence).not.toMatch(/undefined|null|NaN/);
  });
  it('does not tell a number of calls that is not known', () => {
    expect(plainText(foundSentence({ ...found('query-per-row'), typicalCalls: null }))).toContain(
      'very often'
    );
  });
});

describe('accounts', () => {
  it('have a letter each, so that colour never speaks alone', () => {
    const letters = ACCOUNTS.map((account) => LOOKS[account].letter);
    expect(new Set(letters).size).toBe(ACCOUNTS.length);
  });
  it('are those of the parts a request is made of', () => {
    expect(['http', 'rpc', 'database', 'ownCode'].map(partAccount)).toEqual([
      'remote',
      'remote',
      'database',
      'ownCode'
    ]);
    expect([isCallKind('file'), isCallKind('ownCode'), isCallKind('toString')]).toEqual([true, false, false]);
    expect(partNoun('unseen')).toBe('unexplained time');
  });
});

describe('tables as text', () => {
  const field = fc.oneof(
    fc.string(),
    fc.integer(),
    fc.constantFrom('=1+1', '"', ',', '\n', '\t', '@x', '-3')
  );
  /** A reader of RFC 4180 of its own. */
  function parseCsv(text: string): string[][] {
    const rows: string[][] = [];
    let row: string[] = [];
    let at = 0;
    while (at < text.length) {
      let value = '';
      if (text[at] === '"') {
        for (at++; ; at++) {
          if (text[at] !== '"') value += text[at];
          else if (text[at + 1] === '"') value += text[++at];
          else break;
        }
        at++;
      } else while (at < text.length && !/[,\r]/.test(text[at])) value += text[at++];
      row.push(value);
      if (text[at] === ',') at++;
      else {
        at += 2;
        rows.push(row);
        row = [];
      }
    }
    return rows;
  }
  it('are CSV that reads back, with nothing a spreadsheet would run', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(field, field), { minLength: 1 }), (rows) => {
        const [head, ...read] = parseCsv(toCsv(['a', 'b'], rows));
        expect(head).toEqual(['a', 'b']);
        expect(read).toHaveLength(rows.length);
        read.forEach((fields, i) =>
          fields.forEach((value, j) => {
            const given = rows[i][j];
            const runs = typeof given === 'string' && /^[=+\-@\t\r]/.test(given);
            expect(value).toBe(runs ? `'${given}` : String(given));
          })
        );
      })
    );
  });
  it('keep their shape when they are copied', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(field, field), { minLength: 1 }), (rows) => {
        const lines = toTsv(['a', 'b'], rows).split('\n');
        expect(lines).toHaveLength(rows.length + 1);
        for (const line of lines) expect(line.split('\t')).toHaveLength(2);
      })
    );
  });
});

describe('rows in an order', () => {
  it('stand by their values, those without one last, whichever way', () => {
    const rows = fc.array(fc.option(fc.oneof(fc.integer(), fc.constant(NaN))));
    fc.assert(
      fc.property(rows, fc.constantFrom('asc' as const, 'desc' as const), (values, direction) => {
        const sorted = sortRows(values, (value) => value, direction);
        const known = sorted.filter((value) => value !== null && !Number.isNaN(value)) as number[];
        expect(sorted.slice(0, known.length)).toEqual(known);
        expect(known).toEqual(known.toSorted((a, b) => (direction === 'asc' ? a - b : b - a)));
        expect(sorted).toHaveLength(values.length);
      })
    );
  });
});

describe('times', () => {
  const noon = new Date(2026, 10, 24, 12, 5).getTime();
  it('have their day only where it is another', () => {
    expect(shortTime(noon, noon + 3_600_000)).toBe('12:05');
    expect(shortTime(noon, noon + 86_400_000)).toMatch(/24 Nov.*12:05/);
  });
  it('stand in a range with a day wherever it is not plain which', () => {
    const hour = 3_600_000;
    expect(timeRange(noon, noon + hour, noon + 2 * hour)).toBe('12:05 to 13:05');
    expect(timeRange(noon, noon + hour, noon + 48 * hour)).toMatch(/^24 Nov.*12:05 to 13:05$/);
    expect(timeRange(noon, noon + 24 * hour, noon + 24 * hour)).toMatch(/^24 Nov.*12:05 to 25 Nov.*12:05$/);
  });
  it('are days on a long axis, and on a short one where a day begins', () => {
    const midnight = new Date(2026, 10, 24).getTime();
    expect([axisTime(noon, 3_600_000), axisTime(midnight, 3_600_000)]).toEqual(['12:05', '24 Nov']);
    expect(axisTime(noon, 30 * 86_400_000)).toBe('24 Nov');
  });
});

describe('keys of rows', () => {
  it('are never the same twice, and the same again for the same rows', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('a', 'b', 'a 1', '["a",1]', '')), (keys) => {
        const unique = uniqueKeys(keys);
        expect(new Set(unique).size).toBe(keys.length);
        expect(uniqueKeys(keys)).toEqual(unique);
      })
    );
  });
  it('stay what they are when another row goes', () =>
    expect(uniqueKeys(['b', 'a'])[1]).toBe(uniqueKeys(['a'])[0]));
});

describe('text in SVG', () => {
  it('is read back as it was by an XML parser’s rules, less what no document may hold', () => {
    const named: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        const written = xmlText(text);
        expect(written).not.toMatch(/[<>"']/);
        const read = written.replace(/&(\w+);/g, (_, name: string) => named[name]);
        // eslint-disable-next-line no-control-regex
        expect(read).toBe(text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, ''));
      })
    );
  });
});

describe('the scope as a sentence', () => {
  const names = {
    services: ['berths', 'tides'],
    endpoints: [
      { service: 'berths', name: 'GET /plan' },
      { service: 'tides', name: 'GET /plan' }
    ],
    hosts: ['quay-2'],
    releases: ['7.3'],
    more: { services: 0, endpoints: 0, hosts: 0, releases: 0 }
  };
  const now = new Date(2026, 10, 24, 12, 0).getTime();
  const window = { fromUs: (now - 30 * 60_000) * 1000, toUs: now * 1000 };
  const partsOf = (query: string) =>
    scopeParts(
      ['endpoint', 'service', 'host', 'release', 'time', 'slower'],
      scopeFrom(new URLSearchParams(query)),
      names,
      window,
      now
    );

  it('reads as English, whatever is chosen', () => {
    const words = (query: string): string =>
      partsOf(query)
        .map(({ before, shown }) => `${before} ${shown}`)
        .join(' ');
    expect(words('')).toBe(
      'Looking at requests to every endpoint of every service on every host , every release , from 11:30 to 12:00 , of any duration'
    );
    expect(words('endpoint=GET+/plan&service=tides&host=quay-2&release=7.3&slower=500')).toBe(
      'Looking at requests to GET /plan of tides on quay-2 , release 7.3 , from 11:30 to 12:00 , slower than 500 ms'
    );
  });

  it('offers what changes just its part; an endpoint comes with its service', () => {
    const [endpoint, service, host, , time, slower] = partsOf('service=berths');
    expect(endpoint.choose(endpoint.options[2].value)).toEqual({ service: 'tides', endpoint: 'GET /plan' });
    expect(endpoint.choose('')).toEqual({ endpoint: '' });
    expect(service.choose('tides')).toEqual({ service: 'tides', endpoint: '' });
    expect(host.choose('quay-2')).toEqual({ host: 'quay-2' });
    // The time range has a menu of its own.
    expect(time.window).toEqual(window);
    expect(slower.choose('250')).toEqual({ slower: 250 });
    expect(slower.choose('')).toEqual({ slower: undefined });
  });

  it('marks what is chosen in each menu', () => {
    for (const { options, value, window } of partsOf('service=tides&endpoint=GET+/plan&last=6h'))
      if (!window) expect(options.map((option) => option.value)).toContain(value);
  });
});

describe('how a program sends here', () => {
  it('names the place of a token only where one is asked for', () => {
    expect(sdkSettings('http://quay:4300', false).join()).not.toContain('HEADERS');
    expect(uploadCommand('http://quay:4300', false)).not.toContain('-H');
    const [endpoint, , , headers] = sdkSettings('http://quay:4300', true);
    expect(endpoint).toBe('OTEL_EXPORTER_OTLP_ENDPOINT=http://quay:4300');
    expect(decodeURIComponent(headers)).toBe('OTEL_EXPORTER_OTLP_HEADERS=authorization=Bearer your-token');
    expect(uploadCommand('http://quay:4300', true)).toContain(
      '-H "authorization: Bearer your-token" --data-binary'
    );
  });
});
