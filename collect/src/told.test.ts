import { describe, expect, it } from 'vitest';
import { exportText, spanText } from './otlp';
import { taskSpans } from './tasks';

describe('what is told', () => {
  it('is OTLP in JSON, with times as text and without what is empty', () => {
    const of = { traceId: 'a'.repeat(32), parentId: '1'.repeat(16), originMs: 1_790_000_000_000.5 };
    const text = spanText(of, {
      id: '2'.repeat(16),
      name: 'script',
      kind: 3,
      startMs: 10.25,
      endMs: 5,
      attributes: { 'url.full': 'https://quay.example/a.js', empty: '', none: undefined, size: 0 }
    });
    const body = JSON.parse(exportText({ 'service.name': 'board' }, [text])) as {
      resourceSpans: [{ scopeSpans: [{ spans: object[] }] }];
    };
    expect(body.resourceSpans[0].scopeSpans[0].spans).toEqual([
      {
        traceId: of.traceId,
        spanId: '2'.repeat(16),
        parentSpanId: of.parentId,
        name: 'script',
        kind: 3,
        startTimeUnixNano: '1790000000010750000',
        // It does not end before it begins.
        endTimeUnixNano: '1790000000010750000',
        attributes: [
          { key: 'url.full', value: { stringValue: 'https://quay.example/a.js' } },
          { key: 'size', value: { doubleValue: 0 } }
        ]
      }
    ]);
  });

  it('names the script that took most of a long task, by the frames it lies in', () => {
    const entry = (startTime: number, duration: number, more: object = {}): PerformanceEntry =>
      ({ startTime, duration, ...more }) as PerformanceEntry;
    const script = (startTime: number, duration: number, sourceFunctionName: string): object => ({
      startTime,
      duration,
      sourceURL: 'https://quay.example/board.js',
      sourceFunctionName,
      invoker: 'https://quay.example/board.js'
    });
    const frames = [
      entry(0, 400, { scripts: [script(0, 90, 'early'), script(110, 250, 'drawTides'), script(360, 30, '')] })
    ];
    const [told, untold] = taskSpans([entry(100, 300), entry(900, 60)], frames, 50);
    expect(told).toMatchObject({
      startMs: 50,
      endMs: 350,
      attributes: { 'code.function.name': 'drawTides' }
    });
    expect(untold.attributes['code.function.name']).toBeFalsy();
  });
});
