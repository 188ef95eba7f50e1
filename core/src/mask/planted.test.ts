import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { maskSpan, type RawSpan } from '../calls/mask';
import { endpointOf } from '../trace/endpoint';
import { PLANTED, type Planted } from '../testing/planted-secrets';
import { rawSpan } from '../testing/spans';
import { resourceFrom } from '../trace/resource';
import { SpanKind, type Span } from '../trace/span';
import { maskAttributes } from './attributes';
import { maskJson } from './json';
import { isSecretName, secrecyOf } from './names';
import { looksRandom, MASK, maskPeople } from './shapes';
import { maskName, maskStack, maskText } from './text';
import { maskUrl } from './url';

const OPTIONS = { hashKey: 1, keepLiteralsOf: new Set<string>() };

/** Everything of a span that is stored. */
const stored = (span: Span): string =>
  JSON.stringify([
    span.name,
    span.statusMessage,
    [...span.attributes],
    span.events.map((event) => [event.name, [...event.attributes]]),
    span.call,
    { ...span.resource, attributes: [...span.resource.attributes] },
    endpointOf(span)
  ]);

function spanWith({ place, name, value, with: more }: Planted): RawSpan {
  const raw = rawSpan({
    id: 'x',
    from: 0,
    to: 1,
    name: place === 'span name' ? String(value) : 'work',
    kind: SpanKind.CLIENT,
    attributes: { ...more, ...(place === 'attribute' ? { [name]: value } : {}) },
    events:
      place === 'event' || place === 'event name'
        ? [
            {
              name: place === 'event name' ? String(value) : 'exception',
              offsetNs: 0,
              attributes: new Map(place === 'event' ? [[name, value]] : [])
            }
          ]
        : []
  });
  if (place === 'status') raw.statusMessage = String(value);
  if (place === 'resource')
    raw.resource = resourceFrom(
      new Map([
        ['service.name', 'berths'],
        [name, value]
      ])
    );
  return raw;
}

describe('a planted secret is not in what is stored of a span', () => {
  it.each(
    PLANTED.filter(({ place }) => !place.startsWith('log')).map(
      (one) => [`${one.place}, ${one.where}`, one] as const
    )
  )('%s', (_, planted) => {
    expect(stored(maskSpan(spanWith(planted), OPTIONS))).not.toContain(planted.secret);
  });

  it.each(
    PLANTED.filter(({ place }) => place.startsWith('log')).map(
      (one) => [`${one.place}, ${one.where}`, one] as const
    )
  )('%s', (_, { place, name, value, secret }) => {
    const attributes = new Map([[name, value]]);
    maskAttributes(attributes, { hashKey: 1, keepLiterals: false });
    expect(
      place === 'log body' ? maskText(String(value), 'message') : JSON.stringify([...attributes])
    ).not.toContain(secret);
  });

  it('nor where the owner keeps the literals of statements, but for those literals', () => {
    const kept = { hashKey: 1, keepLiteralsOf: new Set(['berths']) };
    for (const name of ['password', 'accessToken', 'http.request.header.authorization'])
      expect(
        stored(maskSpan(rawSpan({ id: 'x', from: 0, to: 1, attributes: { [name]: 'hush-hush' } }), kept))
      ).not.toContain('hush-hush');
  });
});

describe('what gives nothing away stays as it is', () => {
  it.each([
    'GET /berths/:id',
    "Cannot read properties of undefined (reading 'name')",
    'relation "public.manifest_line" does not exist',
    'connect ECONNREFUSED 127.0.0.1:5432',
    'deadlock detected on lock ledger after 250 ms',
    'org.quillhaven.berths.PlanService.assignBerthToVessel',
    'java.lang.IllegalStateException: Session/EntityManager is closed',
    'token bucket is empty',
    'password must not be empty',
    'HTTP 503 from tides',
    'select berths',
    'berths-7d9f8b6c5d-x2x9k',
    'retry 3 of 5 in 200 ms',
    'duplicate key value violates unique constraint "vessel_name_key"'
  ])('%s', (text) => {
    expect(maskName(text)).toBe(text);
    expect(maskText(text, 'value')).toBe(text);
  });

  it.each([
    ['http.route', '/berths/{id}/plan'],
    ['user_agent.original', 'curl/8.5.0'],
    ['container.id', '3f4e8a'.repeat(10) + 'abcd'],
    ['vcs.ref.head.revision', 'da39a3ee5e6b4b0d3255bfef95601890afd80709'],
    ['service.instance.id', '627cc493-f310-47de-96bd-71410b7dec09'],
    ['user.id', 'signe'],
    ['order.id', '627cc493-f310-47de-96bd-71410b7dec09'],
    ['gen_ai.usage.input_tokens', 512],
    ['http.response.body.size', 4096],
    ['code.stacktrace', '    at plan (berths/plan.ts:12:3)\n    at run (gateway/board.ts:9:1)'],
    ['k8s.pod.name', 'berths-7d9f8b6c5d-x2x9k'],
    ['monkey', 'stays'],
    ['keyboard', 'qwerty'],
    ['authority', 'harbour master']
  ])('%s', (name, value) => {
    const attributes = new Map([[name, value]]);
    maskAttributes(attributes, { hashKey: 1, keepLiterals: false });
    expect([...attributes]).toEqual([[name, value]]);
  });

  it('of a stack all frames stay, whatever stands in its message', () => {
    const frames =
      '    at Berths.plan (/srv/berths/dist/plan.js:88:17)\n    at async run (file:///srv/gateway/board.js:9:1)';
    expect(maskStack(`Error: no vessel "Halcyon 7"\n${frames}`)).toBe(`Error: no vessel "?"\n${frames}`);
  });
});

describe('the rules by themselves', () => {
  it('read names as people write them', () => {
    expect(
      ['accessToken', 'DB_PASSWORD', 'x-api-key', 'clientSecret', 'JSESSIONID', 'pwd'].every(isSecretName)
    ).toBe(true);
    expect(
      ['tokenizer', 'keyboard', 'compass', 'opinion', 'pinned', 'sidewalk', 'secretary'].some(isSecretName)
    ).toBe(false);
    expect(secrecyOf('gen_ai.usage.output_tokens')).toBe('texts');
  });
  it('tell random texts from ids and words', () => {
    expect(['Zk3vQ9xT7mB2pLw8RfYc', '9f86d081884c7d659a2feaa0c55ad015'].every(looksRandom)).toBe(true);
    expect(
      [
        '627cc493-f310-47de-96bd-71410b7dec09',
        'StatefulPersistenceContext',
        'manifest_line_by_vessel_and_day',
        'AAAAAAAAAAAAAAAAAAAAAAAA'
      ].some(looksRandom)
    ).toBe(false);
  });
  it('tell card numbers from times and other long numbers', () => {
    // Test numbers of the card networks, as their documents for developers give them (common practice).
    for (const card of ['4111 1111 1111 1111', '5555555555554444', '378282246310005', '2223003122003222'])
      expect(maskPeople(`paid by ${card}`)).toBe(`paid by ${MASK}`);
    // A run of moments: every tenth of them has the check digit of a card.
    for (let moment = 1_795_860_077_258; moment < 1_795_860_077_458; moment++)
      for (const time of [`${moment}`, `${moment}123`, `${moment}123456`])
        expect(maskPeople(time)).toBe(time);
    expect(maskPeople('order 2100000000000000')).toBe('order 2100000000000000');
  });

  it('keep of a URL where it leads, of JSON its keys', () => {
    expect(maskUrl('https://u:p@tides:80/w/7?station=9&x#y')).toBe('https://tides:80/w/7?station=?&?');
    expect(maskJson('{"find":"vessel","filter":{"name":"x","ids":[1,2,3]},"limit":5}')).toBe(
      '{"find":"vessel","filter":{"name":?,"ids":[?]},"limit":?}'
    );
    expect(maskJson('plain')).toBeNull();
  });
  it('bear any text, change nothing that was masked once more, and take time that grows with the length', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (text) => {
        for (const how of ['message', 'value', 'name'] as const)
          expect(typeof maskText(text, how)).toBe('string');
        maskName(text);
        maskStack(text);
        maskUrl(text);
        maskJson(text);
      }),
      { numRuns: 3000 }
    );
    const timed = (text: string): number => {
      const begun = performance.now();
      maskText(text, 'message');
      maskName(text);
      maskUrl(text);
      maskJson(text);
      return performance.now() - begun;
    };
    for (const part of [
      'a',
      'aa=',
      'a.',
      'password=',
      'é',
      "'a",
      '(a',
      '-----BEGIN A-----',
      'eyJ.',
      'a=',
      '"a":"',
      "'x ",
      'a@',
      '--a ',
      '((',
      'select * from ',
      'where a = ',
      '=[',
      '={',
      'eyJ',
      '1 ',
      'A1',
      'x:x:',
      '\\',
      'Aa1',
      'http://a;',
      'password '
    ])
      expect([part, timed(part.repeat(16_384 / part.length)) < 1500]).toEqual([part, true]);
  });
});
