import { takeProfiles } from '$lib/server/evidence/take-profiles';
import { otlpBody } from '$lib/server/http/otlp-post';
import type { RequestHandler } from './$types';

/** OTLP/HTTP: profiles, whose schema is under development. Without the setting `strayExport` has answered already. */
export const POST: RequestHandler = ({ request }) => otlpBody(request, 'rejectedProfiles', takeProfiles);
