import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { EVIDENCE_KINDS } from '@tromix/core/evidence/kinds';
import { evidenceOf } from '$lib/server/queries/evidence';
import type { RequestHandler } from './$types';

/** All evidence of one kind. */
export const GET: RequestHandler = async ({ url }) =>
  json(
    await evidenceOf(v.parse(v.fallback(v.picklist(EVIDENCE_KINDS), 'profile'), url.searchParams.get('kind')))
  );
