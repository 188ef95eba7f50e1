import { error } from '@sveltejs/kit';
import { briefOfCase } from '@tromix/core/case/brief';
import { briefAnswer, briefChoice } from '$lib/server/brief-answer';
import { caseOf } from '$lib/server/queries/cases';
import type { RequestHandler } from './$types';

/** The brief of a case, as Markdown or as one HTML file. */
export const GET: RequestHandler = async ({ params, url }) => {
  const one = await caseOf(params.id);
  if (!one) error(404, 'This case is not here. It may have been removed.');
  const { length, as } = briefChoice(url.searchParams);
  return briefAnswer(briefOfCase(one, { length, origin: url.origin, nowMs: Date.now() }), as);
};
