import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { maskStack } from '../mask/text';
import { cutValue } from '../text/well-formed';
import { readException } from './exception-text';
import { identityOf } from './identity';
import { repeatsIn } from './recursion';

const framesOf = (text: string): string[] =>
  readException(text).parts[0].frames.map(
    ({ function: name, file, line, application }) => `${application ? '' : '·'}${name} ${file}:${line}`
  );
const chainOf = (text: string): string[] =>
  readException(text).parts.map(
    ({ type, message, relation, frames }) => `${relation}: ${type}: ${message} (${frames.length})`
  );

// Forms as the documentation of each runtime shows them; the frames are invented. What runtimes really write stands in recordings/failures.
describe('an exception as text', () => {
  it('is read from Node.js', () =>
    expect(
      framesOf(
        'TypeError: no such quay\n    at rank (/srv/quillhaven/berths/rank.ts:24:11)\n    at async Object.plan (file:///srv/quillhaven/berths/plan.ts:8:3)\n    at /srv/quillhaven/run.ts:1:1\n    at next (/srv/quillhaven/node_modules/router/index.js:4:2)\n    at node:internal/process/task_queues:95:5'
      )
    ).toEqual([
      'rank /srv/quillhaven/berths/rank.ts:24',
      'Object.plan file:///srv/quillhaven/berths/plan.ts:8',
      ' /srv/quillhaven/run.ts:1',
      '·next /srv/quillhaven/node_modules/router/index.js:4',
      '· node:internal/process/task_queues:95'
    ]));
  it('is read from a browser, with a port in the address', () =>
    expect(framesOf('TypeError: x\n    at f (http://localhost:8080/app/a.js:1:20)')).toEqual([
      'f http://localhost:8080/app/a.js:1'
    ]));
  it('is read from the JVM', () =>
    expect(
      framesOf(
        'java.lang.IllegalStateException: full\n\tat haven.berths.Plan.rank(Plan.java:24)\n\tat java.base/java.lang.Thread.run(Thread.java:840)\n\tat haven.Native.go(Native Method)'
      )
    ).toEqual([
      'haven.berths.Plan.rank Plan.java:24',
      '·java.lang.Thread.run Thread.java:840',
      'haven.Native.go Native Method:0'
    ]));
  it('is read from Python, innermost first, from Go, and from .NET', () => {
    expect(
      framesOf(
        'Traceback (most recent call last):\n  File "/usr/lib/python3.11/json/decoder.py", line 3, in decode\n    rank(x)\n  File "/srv/plan.py", line 12, in rank\n    weigh(x)\nValueError: full'
      )
    ).toEqual(['rank /srv/plan.py:12', '·decode /usr/lib/python3.11/json/decoder.py:3']);
    expect(
      framesOf('goroutine 1 [running]:\nhaven/berths.Rank(0x1)\n\t/srv/berths/rank.go:24 +0x1d')
    ).toEqual(['haven/berths.Rank /srv/berths/rank.go:24']);
    expect(framesOf('Haven.Full: no room\n   at Haven.Plan.Rank(Int32 n) in /srv/Plan.cs:line 24')).toEqual([
      'Haven.Plan.Rank /srv/Plan.cs:24'
    ]);
  });

  it('has its causes, whatever order the runtime writes them in', () => {
    expect(
      chainOf(
        'a.Outer: o\n\tat x.A.b(A.java:1)\n\tSuppressed: a.Close: c\n\t\tat x.C.d(C.java:2)\nCaused by: a.Inner: i\n\tat x.E.f(E.java:3)\n\t... 7 more'
      )
    ).toEqual(['itself: a.Outer: o (1)', 'suppressed: a.Close: c (1)', 'cause: a.Inner: i (1)']);
    // .NET: the inner exception's frames come first.
    const net = readException(
      'N.Outer: o\n ---> N.Inner: i\n   at N.E.F() in /s/E.cs:line 3\n   --- End of inner exception stack trace ---\n   at N.A.B() in /s/A.cs:line 1'
    );
    expect(net.parts.map(({ type, frames }) => [type, frames.map(({ file }) => file)])).toEqual([
      ['N.Outer', ['/s/A.cs']],
      ['N.Inner', ['/s/E.cs']]
    ]);
    expect(
      chainOf(
        'Traceback (most recent call last):\n  File "/s/e.py", line 1, in f\nKeyError: i\n\nThe above exception was the direct cause of the following exception:\n\nTraceback (most recent call last):\n  File "/s/a.py", line 1, in b\nOuter: o'
      )
    ).toEqual(['itself: Outer: o (1)', 'cause: KeyError: i (1)']);
  });

  it('keeps its type and message as they were recorded apart', () => {
    const { parts } = readException('Error: x\n    at f (a.js:1:1)', { type: 'ECONNREFUSED', message: 'y' });
    expect(parts[0]).toMatchObject({ type: 'ECONNREFUSED', message: 'y' });
  });
});

describe('a stack that nobody would type', () => {
  const deep = (n: number): string =>
    `a.E0: m\n${Array.from({ length: n }, (_, i) => `\tat x.C${i}.f(C.java:${i + 1})\nCaused by: a.E${i + 1}: m`).join('\n')}`;
  it('of causes 50 deep and deeper is read as far as it is of use, and says what was left out', () => {
    const read = readException(deep(80));
    expect(read.parts).toHaveLength(50);
    expect(read.root).toBe(49);
    expect(read.cut).toBe(31);
  });
  it('of 10,000 frames is read whole, in no time, and its repeating part is found', () => {
    const lines = Array.from(
      { length: 10_000 },
      (_, i) => `    at ${i % 2 ? 'odd' : 'even'} (/s/plan.js:${(i % 2) + 3}:5)`
    );
    const begun = performance.now();
    const { parts } = readException(`RangeError: Maximum call stack size exceeded\n${lines.join('\n')}`);
    const repeats = repeatsIn(parts[0].frames);
    // A quarter of a second: hundreds of times what it takes.
    expect(performance.now() - begun).toBeLessThan(2000);
    expect(parts[0].frames).toHaveLength(10_000);
    expect(repeats).toEqual([{ from: 0, length: 2, times: 5000 }]);
  });
  it('with a message of a megabyte costs no more than its length', () => {
    const begun = performance.now();
    for (const filling of ['a', '(', 'at ', '"', '/a', '1', 'a.b.', '\n', ':', '@'])
      identityOf({
        type: 'E',
        message: filling.repeat(1e6 / filling.length),
        stack: `E: ${filling.repeat(1e6 / filling.length)}`
      });
    expect(performance.now() - begun).toBeLessThan(8000);
  });
  it('is never the end of the reader', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.string({ unit: 'grapheme' }),
            fc.constantFrom(
              'Traceback (most recent call last):',
              'Caused by: ',
              '\tat a.b(C.java:1)',
              'Stack trace:',
              '#0 ',
              '#0 /a.php(1): f()',
              'goroutine 1 [running]:',
              '  | ',
              ' ---> ',
              'File "x", line 1, in y',
              "a.rb:1:in `x': m (E)",
              '   --- End of inner exception stack trace ---'
            )
          ),
          { maxLength: 30 }
        ),
        (lines) => {
          const { parts, root } = readException(lines.join('\n'));
          expect(parts[root]).toBeDefined();
          identityOf({ type: '', message: '', stack: lines.join('\n') });
        }
      ),
      { numRuns: 500 }
    ));
  it('is read to both of its ends where it is too long to be kept', () => {
    const python = `Traceback (most recent call last):\n${'  File "/s/a.py", line 1, in f\n    f()\n'.repeat(2000)}  File "/s/plan.py", line 9, in reserve\n    raise\nBerthTaken: taken`;
    const kept = cutValue(python, 16_384, 'exception.stacktrace');
    expect(kept.length).toBeLessThanOrEqual(16_384);
    expect(identityOf({ type: 'BerthTaken', message: 'taken', stack: maskStack(kept) }).function).toBe(
      'reserve'
    );
    expect(cutValue('a'.repeat(20), 10, 'exception.stacktrace').length).toBeLessThanOrEqual(20);
    expect(cutValue('a'.repeat(20), 10, 'other')).toBe('a'.repeat(10));
  });
});
