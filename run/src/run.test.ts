import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Attributes } from '@opentelemetry/api';
import type { ReadableSpan } from '@opentelemetry/sdk-trace-base';
import { transformSync } from 'esbuild';
import { afterAll, describe, expect, it } from 'vitest';
import { Budget } from './budget';
import { callSite } from './call-site';
import { ParametersHashed } from './parameters';
import { hashOf } from './parameters-hash';
import { SourcePlaces } from './source-places';
import { isTool } from './tools';

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-run-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('programs that only start the one that is meant', () => {
  it.each([
    ['/usr/lib/node_modules/npm/bin/npm-cli.js', true],
    ['/usr/bin/npm', true],
    ['/quay/node_modules/.bin/yarn', true],
    ['/opt/pnpm/pnpm.cjs', true],
    ['/quay/server.js', false],
    ['/quay/npm-report.js', false],
    ['', false]
  ])('%s: %s', (script, tool) => expect(isTool(script)).toBe(tool));
});

describe('the budget of stacks', () => {
  it('is so many a second, however long nothing was asked', () => {
    let now = 0;
    const budget = new Budget(3, () => now);
    const taken = (): number => [1, 2, 3, 4, 5].filter(() => budget.take()).length;
    expect(taken()).toBe(3);
    now += 334;
    expect(taken()).toBe(1);
    now += 60_000;
    expect(taken()).toBe(3);
  });
});

describe('places in sources', () => {
  const source =
    'type Vessel = { id: number };\n\nexport const berthOf = (vessel: Vessel) =>\n  ask(vessel.id);\n';
  const built = (sourcemap: 'inline' | 'external'): { file: string; line: number; column: number } => {
    const { code, map } = transformSync(source, {
      loader: 'ts',
      sourcemap,
      sourcefile: 'src/berth.ts',
      minify: true
    });
    const file = path.join(folder, `berth-${sourcemap}.js`);
    writeFileSync(file, sourcemap === 'inline' ? code : `${code}//# sourceMappingURL=berth.js.map\n`);
    if (sourcemap === 'external') writeFileSync(path.join(folder, 'berth.js.map'), map);
    return { file, line: 1, column: code.indexOf('ask') + 1 };
  };

  it.each(['inline', 'external'] as const)('are found by an %s map', (kind) => {
    const { file, line, column } = built(kind);
    expect(new SourcePlaces().original(file, line, column)).toEqual({
      file: path.join(folder, 'src/berth.ts'),
      line: 4
    });
  });

  it('are the built ones where there is no map, or one that cannot be read', () => {
    const bare = path.join(folder, 'bare.js');
    writeFileSync(bare, 'ask();\n');
    const broken = path.join(folder, 'broken.js');
    writeFileSync(broken, 'ask();\n//# sourceMappingURL=gone.map\n');
    const places = new SourcePlaces();
    for (const file of [bare, broken, path.join(folder, 'nothing.js')])
      expect(places.original(file, 1, 1)).toEqual({ file, line: 1 });
  });
});

describe('the line of a call', () => {
  it('is the innermost of the program’s own', () => {
    function berthOf(): ReturnType<typeof callSite> {
      return callSite(new SourcePlaces(), 'none');
    }
    const before = [Error.prepareStackTrace, Error.stackTraceLimit];
    // This file stands for the program: the frame of `callSite` itself comes first.
    expect(berthOf()?.file).toContain('call-site.ts');
    const own = path.resolve(import.meta.dirname, 'call-site.ts');
    const site = callSite(new SourcePlaces(), own);
    expect(site?.file).toContain('run.test.ts');
    expect([Error.prepareStackTrace, Error.stackTraceLimit]).toEqual(before);
  });
});

describe('the hash of parameters', () => {
  it('is equal for equal lists alone', () => {
    const lists: unknown[][] = [
      [1],
      ['1'],
      [1, 2],
      ['12'],
      [null],
      [undefined],
      [new Date(1)],
      [Buffer.from('1')],
      [{ a: 1 }]
    ];
    expect(new Set(lists.map(hashOf)).size).toBe(lists.length);
    for (const list of lists) expect(hashOf(list)).toBe(hashOf(list));
    expect(hashOf(['harbour'])).toMatch(/^[0-9a-f]{16}$/);
  });
  it('takes an object that holds itself for another one each time', () => {
    const ring: Record<string, unknown> = {};
    ring.self = ring;
    expect(hashOf([ring])).not.toBe(hashOf([ring]));
  });
});

describe('parameters that a client records', () => {
  const ended = (scope: string, attributes: Attributes): Attributes => {
    new ParametersHashed().onEnd({ attributes, instrumentationScope: { name: scope } } as ReadableSpan);
    return attributes;
  };
  const MYSQL2 = '@opentelemetry/instrumentation-mysql2';
  const HASH = 'tromix.db.parameters.hash';

  it('are taken out of filled-in statements, equal ones with an equal hash', () => {
    const [one, same, other] = ['9100001', '9100001', '9100002'].map((imo) =>
      ended(MYSQL2, {
        'db.statement': `SELECT name FROM vessel WHERE imo = ${imo} AND flag = 'O\\'Quay' AND t2 > -1.5e3`
      })
    );
    expect(one['db.statement']).toBe('SELECT name FROM vessel WHERE imo = ? AND flag = ? AND t2 > ?');
    expect(one[HASH]).toBe(same[HASH]);
    expect(one[HASH]).not.toBe(other[HASH]);
  });

  it('are taken out of lists of values', () => {
    const attributes = ended('@opentelemetry/instrumentation-mysql', {
      'db.query.text': 'SELECT name FROM vessel WHERE imo = ?',
      'db.mysql.values': '[9100001]'
    });
    expect(attributes).toEqual({
      'db.query.text': 'SELECT name FROM vessel WHERE imo = ?',
      [HASH]: expect.stringMatching(/^[0-9a-f]{16}$/) as string
    });
  });

  it('are taken out of documents, but for what names the collection', () =>
    expect(
      ended('@opentelemetry/instrumentation-mongodb', {
        'db.statement': '{"find":"vessels","filter":{"imo":9100001,"tags":["a"]},"limit":1}'
      })['db.statement']
    ).toBe('{"find":"vessels","filter":{"imo":"?","tags":["?"]},"limit":"?"}'));

  it('of other clients stay as they are: those never record any', () => {
    const attributes = { 'db.query.text': 'SELECT name FROM vessel WHERE imo = $1 AND id = 7' };
    expect(ended('@opentelemetry/instrumentation-pg', { ...attributes })).toEqual(attributes);
  });
});
