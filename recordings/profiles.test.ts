import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { maskOtlpProfiles } from '../core/src/mask/otlp-profiles';
import { findInProfile } from '../core/src/findings/profile-findings';
import { recognise } from '../core/src/formats/recognise';
import { functionWeights } from '../core/src/profile/functions';
import { fileLines } from '../core/src/profile/lines';
import type { Profile } from '../core/src/profile/model';
import { splitOtlpProfiles } from '../core/src/profile/otlp/split';
import { readProfile, type ReadProfile } from '../core/src/profile/read';
import { slice, WHOLE } from '../core/src/profile/slice';
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

/** A recorded file, recognised by its content. */
function open(name: string, measure = ''): ReadProfile {
  const content = gunzipSync(read(name));
  const { kind, format } = recognise(content);
  if (kind !== 'profile') throw new Error(`${name} is no profile`);
  return readProfile(content, format, measure);
}
const codesOf = ({ warnings }: ReadProfile): string[] => warnings.map(({ code }) => code);
/** Self and total of a function. */
function weightOf(of: Profile, name: string): { self: number; total: number } {
  const found = functionWeights(of.frames, of, slice(of)).find(({ frame }) => of.frames[frame].name === name);
  return { self: found?.self ?? 0, total: found?.total ?? 0 };
}

// Source: Go 1.19's own profiles of `profiles/tides.go`, which knows what it does.
describe('profiles of Go', () => {
  const known = JSON.parse(read('go/known.json').toString()) as {
    keptBytes: number;
    keptStamps: number;
    parked: number;
  };

  it('of the CPU: two parts of one function to one of another, by label and by name', () => {
    const { profile: cpu, measures, startedAtUs, warnings } = open('go/cpu.pb.gz');
    expect([measures, warnings]).toEqual([['samples', 'cpu'], []]);
    expect(cpu).toMatchObject({ valueType: 'cpu', unit: 'nanoseconds', measure: 'cpu', durationNs: 0 });
    expect(cpu.recordedNs! / 1e9).toBeCloseTo(3.1, 1);
    expect(new Date(startedAtUs! / 1000).getUTCFullYear()).toBeGreaterThanOrEqual(2026);
    const { sum } = slice(cpu);
    expect(weightOf(cpu, 'main.harmonic').total / sum).toBeCloseTo(2 / 3, 1);
    const [endpoint] = cpu.labels!;
    expect([endpoint.key, endpoint.values]).toEqual(['endpoint', ['/tides', '/residues']]);
    const ofTides = slice(cpu, { ...WHOLE, labels: [{ label: 0, value: 0 }] });
    expect(ofTides.sum).toBe(weightOf(cpu, 'main.harmonic').total);
    // Put into its caller by the compiler, and a function all the same.
    expect(weightOf(cpu, 'main.wave').self).toBeGreaterThan(0);
    const kinds = new Map(cpu.frames.map(({ name, kind }) => [name, kind]));
    expect([kinds.get('main.harmonic'), kinds.get('math.mod'), kinds.get('runtime.main')]).toEqual([
      'app',
      'runtime',
      'runtime'
    ]);
    const lines = read('tides.go').toString().split('\n');
    const heaviest = fileLines(cpu, slice(cpu), './tides.go').lines.toSorted((a, b) => b.self - a.self)[0];
    expect(lines[heaviest.line - 1]).toMatch(/wave\(i\)|for i := 0/);
  });

  it('of the heap: what is in use, and what was ever allocated', () => {
    const used = open('go/heap.pb.gz').profile;
    expect(used).toMatchObject({ valueType: 'memory', unit: 'bytes', measure: 'inuse_space' });
    const kept = weightOf(used, 'main.keepStamps').total;
    // The list of what is kept takes room itself.
    expect(kept).toBeGreaterThanOrEqual(known.keptBytes);
    expect(kept).toBeLessThan(known.keptBytes * 1.01);
    expect(weightOf(used, 'main.passStamps').total).toBe(0);
    const objects = open('go/heap.pb.gz', 'alloc_objects').profile;
    expect(objects).toMatchObject({ valueType: 'allocation', unit: 'count' });
    expect(weightOf(objects, 'main.passStamps').total).toBe(300);
  });

  it('of locks: how often, and for how long', () => {
    const often = open('go/block.pb.gz', 'contentions').profile;
    const long = open('go/block.pb.gz', 'delay').profile;
    expect([often.unit, long.unit, long.valueType]).toEqual(['count', 'nanoseconds', 'waiting']);
    // Two that pass one gate 20 times for 2 ms each: nearly each pass waits for the other.
    const times = weightOf(often, 'main.passGate').total;
    expect(times).toBeGreaterThan(30);
    expect(weightOf(long, 'main.passGate').total / times / 1e6).toBeCloseTo(2.5, -0.5);
  });

  it('of goroutines', () => {
    const { profile: parked } = open('go/goroutine.pb.gz');
    expect(weightOf(parked, 'main.park').total).toBe(known.parked);
  });
});

// Source: Chromium’s own trace of a page and its worker, which compute for 600 and 300 ms.
it('reads the CPU samples of a browser’s trace, each thread by its name', () => {
  const { profile: trace, warnings } = open('chromium-trace.json.gz');
  expect(warnings).toEqual([]);
  const share = (thread: RegExp): number => {
    const at = trace.threads.findIndex((name) => thread.test(name));
    const weights = slice(trace, { ...WHOLE, thread: at });
    return functionWeights(trace.frames, trace, weights).find(
      ({ frame }) => trace.frames[frame].name === 'sumOfBerths'
    )!.total;
  };
  expect(share(/^Renderer \d+, CrRendererMain$/) / 1e6).toBeCloseTo(600, -1.5);
  expect(share(/DedicatedWorker thread$/) / 1e6).toBeCloseTo(300, -1.5);
  expect(trace.frames.find(({ name }) => name === 'highWater')).toMatchObject({ kind: 'app' });
  expect(
    trace.frames.filter(({ file }) => file.startsWith('chrome://')).map(({ kind }) => kind)
  ).not.toContain('app');
});

// Source: a JVM 17’s own recording of `profiles/Tides.java`, as its tool prints it.
it('reads a JVM’s own recording: samples, allocation and waiting for locks', () => {
  const { profile: samples, measures } = open('tides.jfr.json.gz');
  expect(measures).toEqual(['CPU samples', 'allocation', 'waiting for locks']);
  const compute = samples.threads.indexOf('tide-compute');
  const weights = slice(samples, { ...WHOLE, thread: compute });
  expect(weightOf(samples, 'Tides.harmonic').self).toBe(weights.sum);
  const allocated = open('tides.jfr.json.gz', 'allocation').profile;
  expect(weightOf(allocated, 'Tides.stamps').total / slice(allocated).sum).toBeGreaterThan(0.95);
  const waited = open('tides.jfr.json.gz', 'waiting for locks').profile;
  // What each waited for, and who had it, as the JVM tells.
  const told = Object.fromEntries((waited.labels ?? []).map(({ key, values }) => [key, values]));
  expect(told['waits for']).toEqual(['the lock of java.lang.Object']);
  expect(told['held by'].every((name) => /^gate-\d$/.test(name))).toBe(true);
  // Two that take turns for two seconds: at each moment one of them waits.
  expect(weightOf(waited, 'Tides.held').total / 1e9).toBeCloseTo(2, 0);
  expect(open('tides.jfr.json.gz').warnings).toEqual([]);
  // Nothing of a run stands in the names: the same function is the same in the next recording.
  expect(samples.frames.filter(({ name }) => /0x[0-9a-f]{8}/.test(name))).toEqual([]);
});

it('says where the JVM’s tool cut the stacks, which it does unless it is asked not to', () => {
  const whole = JSON.parse(gunzipSync(read('tides.jfr.json.gz')).toString()) as {
    recording: { events: { values: { stackTrace: { frames: unknown[] } } }[] };
  };
  for (const { values } of whole.recording.events) values.stackTrace?.frames.splice(5);
  const content = new TextEncoder().encode(JSON.stringify(whole));
  expect(readProfile(content, 'jfr-json').warnings).toMatchObject([{ code: 'stack-cut' }]);
});

// Source: the code that is generated from OpenTelemetry's published schema writes the same recordings as OTLP profiles (`profiles/otlp/record.py`).
describe('OTLP profiles', () => {
  it.each(['otlp/node.pb.gz', 'otlp/node.json.gz'])(
    '%s: times and weights are those of the recording',
    (name) => {
      const { profile: told, measures, startedAtUs, warnings } = open(name);
      expect([measures, startedAtUs, warnings]).toEqual([['cpu'], 1_790_000_000_000_000, []]);
      expect(told).toMatchObject({ valueType: 'cpu', unit: 'nanoseconds', durationNs: profile.durationNs });
      expect(slice(told).sum).toBe(slice(profile).sum);
      expect(slice(told).idle).toBe(slice(profile).idle);
      for (const name of ['parse', 'stamp']) expect(weightOf(told, name)).toEqual(weightOf(profile, name));
      const half = { ...WHOLE, spans: Float64Array.of(0, profile.durationNs / 2) };
      expect(slice(told, half).sum).toBe(slice(profile, half).sum);
    }
  );

  it.each(['otlp/jvm.pb.gz', 'otlp/jvm.json.gz'])(
    '%s: samples that are counted stand for the time between them',
    (name) => {
      const recorded = open('tides.jfr.json.gz', 'CPU samples').profile;
      const { profile: told, warnings } = open(name);
      expect(warnings).toEqual([]);
      expect(told).toMatchObject({ valueType: 'cpu', unit: 'nanoseconds' });
      expect(slice(told).sum).toBe(slice(recorded).sum * 20e6);
      expect(told.threads.toSorted()).toEqual(recorded.threads.toSorted());
      const [heaviest] = functionWeights(recorded.frames, recorded, slice(recorded));
      const { name: function_ } = recorded.frames[heaviest.frame];
      expect(weightOf(told, function_)).toEqual({ self: heaviest.self * 20e6, total: heaviest.total * 20e6 });
      expect(told.durationNs).toBeGreaterThanOrEqual(10e9);
    }
  );

  it('are taken one by one out of a message, and masked', () => {
    const content = gunzipSync(read('otlp/node.json.gz'));
    const [only, ...others] = splitOtlpProfiles(content);
    expect(others).toEqual([]);
    expect(only.resource).toMatchObject({ service: 'thrower', release: '8.2', host: 'quay-3', pid: 4711 });
    // What is written so is written so again.
    const [again] = splitOtlpProfiles(only.content);
    expect(again.content).toEqual(only.content);
    expect(maskOtlpProfiles(only.content)).toBe(only.content);
    expect(codesOf(readProfile(only.content, 'otlp-profiles'))).toEqual([]);
    expect(slice(readProfile(only.content, 'otlp-profiles').profile).sum).toBe(slice(profile).sum);
  });
});
