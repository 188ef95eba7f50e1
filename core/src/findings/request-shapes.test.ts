import { describe, expect, it } from 'vitest';
import { REQUEST_SHAPES } from '../testing/request-shapes/all';
import { traceOf } from '../testing/spans';
import { findInRequest } from './request-findings';

describe('what is said of requests as programs make them', () => {
  it('covers at least 150 of them', () => expect(REQUEST_SHAPES.length).toBeGreaterThanOrEqual(150));

  it.each(REQUEST_SHAPES.map((shape) => [shape.name, shape] as const))(
    '%s',
    (_, { spans, must, may = [] }) => {
      const trace = traceOf(spans);
      const found = new Set(findInRequest(trace, trace.requests[0]).map(({ rule }) => rule));
      expect([...found].filter((rule) => !may.includes(rule) || must.includes(rule)).sort()).toEqual(
        [...must].sort()
      );
    }
  );
});
