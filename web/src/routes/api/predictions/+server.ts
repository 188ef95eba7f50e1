import * as v from 'valibot';
import { judge } from '@tromix/core/compare/prediction';
import { readJson, refused } from '$lib/server/http/json-body';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const name = v.pipe(v.string(), v.maxLength(20_000));
const ns = v.pipe(v.number(), v.finite(), v.minValue(0));
const interval = v.pipe(
  v.object({ low: ns, high: ns }),
  v.check(({ low, high }) => low <= high, 'expected the lower end first')
);
const Judged = v.object({
  service: name,
  endpoint: name,
  rule: v.pipe(name, v.nonEmpty()),
  subject: name,
  /** Queries of the scopes. */
  sideA: name,
  sideB: name,
  prediction: v.object({ beforeNs: ns, within: interval }),
  measured: interval
});

/** Keeps a prediction with what was measured. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Judged);
  if (!body.ok) return refused(body.message);
  const { prediction, measured, ...what } = body.value;
  await change('keepPrediction', {
    ...what,
    beforeNs: Math.round(prediction.beforeNs),
    lowNs: Math.round(prediction.within.low),
    highNs: Math.round(prediction.within.high),
    measuredLowNs: Math.round(measured.low),
    measuredHighNs: Math.round(measured.high),
    state: judge(prediction, measured)
  });
  return new Response(null, { status: 204 });
};
