import { describe, expect, it } from 'vitest';
import { writeJvmDump } from '../testing/jvm-dump';
import { readJvmText } from './jvm-text';
import { packageOf, packagesOf } from './packages';

const of = (name: string, reported = ''): string => packageOf({ name, package: reported });

describe('the package of a frame', () => {
  // The Java Language Specification, 6.1 (naming conventions): packages in lower case, classes not.
  it('is what stands before the class of a Java name', () => {
    expect(of('quillhaven.pilots.Roster$Sync.post')).toBe('quillhaven.pilots');
    expect(of('Roster.post')).toBe('');
    expect(of('quillhaven.pilots.Roster$$Lambda/0x0000000801.run')).toBe('quillhaven.pilots');
  });
  // The Go specification, "Qualified identifiers", and the runtime's own traces: import path, dot, function.
  it('is the import path of a Go name', () => {
    expect(of('net/http.(*conn).serve')).toBe('net/http');
    expect(of('main.(*Quay).berth')).toBe('main');
    expect(of('quay.example/tide/v2.Predict')).toBe('quay.example/tide/v2');
  });
  it('is what the reader reported, where it reported one', () =>
    expect(of('loop', 'tidelib')).toBe('tidelib'));
  it('is none of a bare function, nor of a name that is no name', () => {
    expect([of('loop'), of(''), of('(anonymous)'), of('__proto__')]).toEqual(['', '', '', '']);
  });
});

describe('the packages of a dump', () => {
  it('count each thread once, the program’s own before the runtime’s', () => {
    const text = writeJvmDump([
      { name: 'a', frames: ['java.lang.Object.wait(Native Method)', 'quillhaven.pilots.A.run(A.java:1)'] },
      { name: 'b', frames: ['java.lang.Thread.sleep(Native Method)', 'java.lang.Thread.run(Thread.java:1)'] },
      { name: 'c', frames: ['quillhaven.pilots.A.run(A.java:1)', 'quillhaven.pilots.B.run(B.java:2)'] },
      { name: 'd', frames: ['quillhaven.tides.T.run(T.java:1)'] }
    ]);
    const { frames, dumps } = readJvmText(text).series;
    expect(packagesOf(frames, dumps[0].threads)).toEqual([
      { name: 'quillhaven.pilots', runtime: false, threads: 2 },
      { name: 'quillhaven.tides', runtime: false, threads: 1 },
      { name: 'java.lang', runtime: true, threads: 2 }
    ]);
  });
});
