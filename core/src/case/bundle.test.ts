import { readFileSync, writeFileSync } from 'node:fs';
import { toJsonSchema } from '@valibot/to-json-schema';
import { describe, expect, it } from 'vitest';
import { BUNDLE_LIMITS, bundleFault, BundleManifest, readManifest, type ZipEntry } from './bundle';

const entry = (path: string, more: Partial<ZipEntry> = {}): ZipEntry => ({
  path,
  packedBytes: 100,
  bytes: 300,
  mode: 0o100644,
  ...more
});
const whole = [
  entry('manifest.json'),
  entry('brief.md'),
  entry('traces/1.otlp.json'),
  entry(`evidence/${'ab'.repeat(32)}`)
];

describe('the directory of a zip', () => {
  it('of a bundle is taken', () => expect(bundleFault(whole)).toBe(''));
  it.each([
    ['a path that leads out', entry('../manifest.json'), 'is nothing that a bundle holds'],
    ['an absolute path', entry('/etc/passwd'), 'is nothing that a bundle holds'],
    ['another folder', entry('evidence/../../x'), 'is nothing that a bundle holds'],
    ['a backslash', entry('traces\\1.otlp.json'), 'is nothing that a bundle holds'],
    ['a link', entry('brief.html', { mode: 0o120777 }), 'is a link'],
    ['the same path twice', entry('brief.md'), 'is in it twice'],
    ['a bomb', entry('traces/2.otlp.json', { packedBytes: 10_000, bytes: 10_000_000 }), 'times its length'],
    [
      'too much',
      entry('traces/2.otlp.json', { packedBytes: 8 * 1024 ** 3, bytes: 9 * 1024 ** 3 }),
      'more than 8 GiB'
    ]
  ])('with %s is refused', (_, one, words) => expect(bundleFault([...whole, one])).toContain(words));
  it('without a manifest, or with too many files, is refused', () => {
    expect(bundleFault([entry('brief.md')])).toContain('no manifest.json');
    const many = Array.from({ length: BUNDLE_LIMITS.entries + 1 }, (_, i) => entry(`traces/${i}.otlp.json`));
    expect(bundleFault(many)).toContain('more than');
  });
});

describe('a manifest', () => {
  const manifest = {
    tromixBundle: 1,
    madeAtUs: 1,
    case: {
      id: '0123456789abcdef',
      question: 'Why?',
      state: 'open',
      told: '',
      createdAtUs: 1,
      version: 1,
      entries: []
    },
    traces: ['traces/1.otlp.json'],
    files: []
  };
  it('is read as it was written', () => {
    expect(readManifest(JSON.stringify(manifest))).toEqual({ ok: true, manifest });
  });
  it.each([
    ['no json', 'no JSON'],
    [JSON.stringify({ ...manifest, tromixBundle: 2 }), 'newer version'],
    [JSON.stringify({ ...manifest, case: { ...manifest.case, id: '../x' } }), 'case.id'],
    [JSON.stringify({ ...manifest, traces: ['../x'] }), 'traces.0']
  ])('that is damaged is refused: %s', (text, words) => {
    const read = readManifest(text);
    expect(read.ok ? '' : read.message).toContain(words);
  });

  /** `UPDATE_DOCS=1 npx vitest run --root . core/src/case/bundle`, then `npm run format`, writes it anew. */
  it('has the published JSON Schema', () => {
    const docs = new URL('../../../docs/bundle.schema.json', import.meta.url);
    const schema = {
      title: 'Manifest of a bundle of Tromix, version 1',
      ...toJsonSchema(BundleManifest, { errorMode: 'ignore', typeMode: 'input' })
    };
    if (process.env.UPDATE_DOCS === '1') writeFileSync(docs, JSON.stringify(schema, null, 2));
    expect(JSON.parse(readFileSync(docs, 'utf8'))).toEqual(JSON.parse(JSON.stringify(schema)));
  });
});
