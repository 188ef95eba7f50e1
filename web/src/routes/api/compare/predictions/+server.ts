import { error, json } from '@sveltejs/kit';
import { comparedScopesFrom } from '$lib/compared-scopes';
import { scopeQuery } from '$lib/scope';
import { keptPrediction, predictedFor, predictionScore } from '$lib/server/queries/sides/predictions';
import type { RequestHandler } from './$types';

/** What mending a finding of side A was to give, whether that is kept, and how all predictions kept here turned out. */
export const GET: RequestHandler = async ({ url }) => {
  const { before, after, leave } = comparedScopesFrom(url.searchParams);
  if (!before) error(400, 'Side A is missing.');
  const finding = {
    rule: url.searchParams.get('rule') ?? '',
    subject: url.searchParams.get('subject') ?? ''
  };
  const [predicted, kept, score] = await Promise.all([
    predictedFor(before, leave, finding, Date.now()),
    keptPrediction({ a: scopeQuery(before), b: scopeQuery(after) }, finding),
    predictionScore()
  ]);
  return json({ ...predicted, kept, score });
};
