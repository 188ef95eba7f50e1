import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { briefOfCase, briefOfPin } from './brief';
import { briefHtml } from './brief-html';
import { briefMarkdown } from './brief-markdown';
import type { Case, Pin } from './case';
import { checklistOf } from './checklist';

const NOW = Date.UTC(2026, 10, 29, 9, 0);
const pin = (more: Partial<Pin> = {}): Pin => ({
  kind: 'request',
  role: '',
  sentence: 'It takes 1.34 s.',
  figures: [],
  address: '/requests/a/b',
  picture: '',
  code: null,
  verbatim: '',
  traces: [],
  files: [],
  ...more
});
const one = (entries: { title: string; text?: string; pin?: Pin }[]): Case => ({
  id: '0123456789abcdef',
  question: 'Berthing takes seconds since 7.3',
  state: 'open',
  told: '',
  createdAtUs: NOW * 1000,
  version: 1,
  entries: entries.map(({ title, text = '', pin: of = null }, i) => ({
    id: String(i).padStart(16, '0'),
    atUs: NOW * 1000,
    title,
    text,
    pin: of,
    version: 1
  }))
});
const options = { length: 'full', origin: 'http://127.0.0.1:4380', nowMs: NOW } as const;
const render = (source: string): string => `<p>${source.length}</p>`;

describe('a brief', () => {
  const whole = one([
    {
      title: 'One slow request',
      pin: pin({ role: 'slow request', figures: [{ name: 'took', value: '1.34 s' }] })
    },
    {
      title: 'Cause',
      text: 'Asked **for every row**.',
      pin: pin({
        role: 'cause',
        verbatim: 'select * from manifest where id = ?',
        code: {
          file: 'berths/plan.ts',
          line: 28,
          release: '7.3',
          lines: [{ number: 28, text: 'await one(id)' }]
        }
      })
    },
    { title: 'An aside', pin: pin({ sentence: 'Not about it.', picture: '<svg/>' }) }
  ]);

  it('tells the question, the chain of evidence in its order, code and statements as Markdown', () => {
    expect(briefMarkdown(briefOfCase(whole, options))).toBe(`# Berthing takes seconds since 7.3

State: open, opened 2026-11-29 09:00 UTC. Written 2026-11-29 09:00 UTC.

## One slow request (2026-11-29 09:00 UTC)

It takes 1.34 s.

| | |
| --- | ---: |
| took | 1.34 s |

[Open it in Tromix](http://127.0.0.1:4380/requests/a/b)

## Cause (2026-11-29 09:00 UTC)

It takes 1.34 s.

Asked **for every row**.

berths/plan.ts, as of 7.3

\`\`\`
> 28  await one(id)
\`\`\`

\`\`\`
select * from manifest where id = ?
\`\`\`

[Open it in Tromix](http://127.0.0.1:4380/requests/a/b)

## An aside (2026-11-29 09:00 UTC)

Not about it.

_(picture: Not about it.)_

[Open it in Tromix](http://127.0.0.1:4380/requests/a/b)
`);
  });

  it('is short where it is asked to be: what has no part in the chain is left out', () => {
    const text = briefMarkdown(briefOfCase(whole, { ...options, length: 'short', origin: '' }));
    expect(text).not.toContain('An aside');
    expect(text).not.toContain('Open it');
  });

  it('of one thing is written by the same hand', () => {
    const html = briefHtml(
      briefOfPin('POST /calls', pin({ figures: [{ name: 'p95', value: '2 s' }] }), options),
      render
    );
    expect(html).toContain('<h1>POST /calls</h1>');
    expect(html).toContain('<td>p95</td><td>2 s</td>');
  });

  it('as HTML runs and fetches nothing, whatever stands in it', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(fc.string(), fc.constantFrom('<script>x</script>', '"><img src=x onerror=1>', '</title>')),
          { minLength: 6, maxLength: 6 }
        ),
        ([a, b, c, d, e, f]) => {
          const hostile = one([
            {
              title: a,
              pin: pin({
                sentence: b,
                figures: [{ name: c, value: d }],
                verbatim: e,
                picture: `<svg onload="${f}"/>`,
                code: { file: a, line: 1, release: b, lines: [{ number: 1, text: c }] }
              })
            }
          ]);
          const html = briefHtml({ ...briefOfCase(hostile, options), title: f }, render);
          // Every tag without the values of its attributes.
          const tags = [...html.matchAll(/<\/?[a-z][^>]*>/gi)].map(([tag]) => tag.replace(/"[^"]*"/g, ''));
          expect(
            tags.filter((tag) => /^<\/?(?:script|svg|iframe|object|embed|form)|\son\w+=/i.test(tag))
          ).toEqual([]);
          expect(html.match(/ src="(?!data:image\/svg\+xml;base64,)/)).toBeNull();
          expect(html).toContain("default-src 'none'");
        }
      )
    );
  });

  it('as Markdown has no markup that comes from outside', () => {
    const text = briefMarkdown(
      briefOfCase(
        one([
          {
            title: '# not a heading\n## nor this',
            pin: pin({ sentence: '[x](javascript:1) <b> `c` | d', verbatim: '```\nend' })
          }
        ]),
        options
      )
    );
    expect(text).toContain('\\[x\\](javascript:1) \\<b\\> \\`c\\` \\| d');
    expect(text.split('\n').filter((line) => line.startsWith('#'))).toHaveLength(2);
    // A fence that the text itself cannot end.
    expect(text).toContain('````\n```\nend\n````');
  });
});

describe('what a case needs', () => {
  it('is told by what it holds', () => {
    const missing = (of: Case): string[] =>
      checklistOf(of)
        .filter(({ done }) => !done)
        .map(({ what }) => what);
    expect(missing(one([]))).toHaveLength(6);
    const full = one([
      { title: '', pin: pin({ role: 'slow request' }) },
      { title: '', pin: pin({ role: 'normal request' }) },
      {
        title: '',
        pin: pin({
          role: 'cause',
          figures: [{ name: 'should take', value: '1 s' }],
          code: { file: 'a', line: 1, release: '', lines: [] }
        })
      },
      { title: '', pin: pin({ role: 'proof' }) }
    ]);
    expect(missing(full)).toEqual(['who was told']);
    expect(missing({ ...full, told: 'the harbour office' })).toEqual([]);
  });
});
