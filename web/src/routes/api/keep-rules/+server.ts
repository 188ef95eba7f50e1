import { json } from '@sveltejs/kit';
import { readJson, refused } from '$lib/server/http/json-body';
import { KeepRules } from '$lib/server/http/keep-rules-schema';
import { previewOf } from '$lib/server/queries/keep';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** What the rules in the body would have kept of the last hour. Changes nothing. */
export const POST: RequestHandler = async ({ request }) => {
  const rules = await readJson(request, KeepRules);
  return rules.ok ? json(await previewOf(rules.value, Date.now())) : refused(rules.message);
};

/** Replaces the keep rules. */
export const PUT: RequestHandler = async ({ request }) => {
  const rules = await readJson(request, KeepRules);
  if (!rules.ok) return refused(rules.message);
  await change('setKeepRules', rules.value);
  return new Response(null, { status: 204 });
};
