import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { findInProfile } from '../core/src/findings/profile-findings';
import { slice } from '../core/src/profile/slice';
import { readV8CpuProfile } from '../core/src/profile/v8-cpu';

const read = (name: string): Buffer => readFileSync(path.join(import.meta.dirname, 'profiles', name));
/** A CPU profile of Node.js 20 of the program beside it (`profiles/thrower.js`), whose address alone was shortened. */
const { profile } = readV8CpuProfile(gunzipSync(read('thrower.cpuprofile.gz')));
const source = read('thrower.js').toString().split('\n');
const sourceLine = (file: string, line: number): string | null =>
  file === 'file:///quay/thrower.js' ? source[line - 1] : null;

describe('exceptions of which V8 shows no frame', () => {
  it('are recognised by the line that throws', () => {
    const [thrown, ...others] = findInProfile(profile, slice(profile), sourceLine);
    expect(thrown.rule).toBe('thrown-for-control');
    expect(thrown.evidence.function).toMatchObject({ name: 'parse', line: 4 });
    // `parse`, the class made in `stamp`, and the line of `stamp` that throws it: nearly all the program does.
    expect(thrown.figures.share).toBeGreaterThan(0.9);
    expect(thrown.evidence.callers.map(({ name }) => name).sort()).toEqual(['parse', 'stamp']);
    expect(thrown.sentence).toMatch(
      /most of it in parse \(quay\/thrower\.js:4\): each captures its stack\. Created in/
    );
    expect(others.map(({ rule }) => rule)).not.toContain('hot-function');
  });

  it('are a hot function where the source is not to be had', () => {
    const found = findInProfile(profile, slice(profile));
    expect(found[0]).toMatchObject({ rule: 'hot-function', evidence: { function: { name: 'parse' } } });
    expect(found.find(({ rule }) => rule === 'thrown-for-control')?.figures.share).toBeLessThan(0.5);
  });

  it('are made where the program begins, too, whose code has a name', () => {
    expect(profile.frames.map(({ name, file }) => [name, file])).toContainEqual([
      '(top level)',
      'file:///quay/thrower.js'
    ]);
  });
});
