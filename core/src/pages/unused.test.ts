import { Session } from 'node:inspector/promises';
import { describe, expect, it } from 'vitest';
import { unusedShare, type CoverageRange } from './unused';

describe('what of a script did not run', () => {
  it('is what lies in ranges that did not, the innermost of several', () => {
    const ranges = [
      { startOffset: 0, endOffset: 100, count: 1 },
      { startOffset: 20, endOffset: 80, count: 0 },
      { startOffset: 30, endOffset: 40, count: 2 }
    ];
    expect(unusedShare(ranges)).toBeCloseTo(0.5);
    expect(unusedShare(ranges.toReversed())).toBeCloseTo(0.5);
  });
  it('is not known of nothing', () => {
    expect(unusedShare([])).toBeNull();
  });
  it('is as V8 itself tells it', async () => {
    const session = new Session();
    session.connect();
    await session.post('Profiler.enable');
    await session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
    const idle = `function idle() { ${'void 0;'.repeat(200)} }`;
    const source = `${idle}\nfunction busy() { ${'void 0;'.repeat(200)} }\nbusy();\n//# sourceURL=planted-coverage.js`;
    new Function(source)();
    const { result } = await session.post('Profiler.takePreciseCoverage');
    session.disconnect();
    const script = result.find(({ url }) => url.endsWith('planted-coverage.js'))!;
    const ranges: CoverageRange[] = script.functions.flatMap((one) => one.ranges);
    expect(unusedShare(ranges)).toBeCloseTo(idle.length / source.length, 1);
  });
});
