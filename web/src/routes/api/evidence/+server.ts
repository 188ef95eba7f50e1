import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { takeEvidence } from '$lib/server/store/take-evidence';
import type { RequestHandler } from './$types';

const label = v.optional(v.pipe(v.string(), v.maxLength(300)), '');
const whole = v.optional(
  v.pipe(v.string(), v.regex(/^\d{1,16}$/, 'takes a whole number'), v.transform(Number))
);

const Label = v.object({
  name: label,
  service: label,
  host: label,
  release: label,
  pid: whole,
  startedAtUs: whole
});

/** Takes one file as the request's body; what is known of it beside its content stands in the query. */
export const POST: RequestHandler = async ({ request, url }) => {
  const parsed = v.safeParse(Label, Object.fromEntries(url.searchParams));
  if (!parsed.success) {
    const [issue] = parsed.issues;
    return json(
      { code: 'wrong-label', message: `The parameter ${String(issue.path?.[0]?.key)} ${issue.message}.` },
      { status: 400 }
    );
  }
  if (!request.body)
    return json(
      { code: 'empty', message: 'The file is empty: 0 bytes were found. Choose one with content.' },
      { status: 400 }
    );
  const { pid = 0, startedAtUs = null, ...names } = parsed.output;
  const outcome = await takeEvidence(request.body as unknown as AsyncIterable<Uint8Array>, {
    ...names,
    pid,
    startedAtUs
  });
  if (outcome.ok) return json(outcome.value, { status: 201 });
  const { code, message, offset } = outcome;
  return json(
    { code, message, offset },
    { status: code === 'too-large' || code === 'inflated-too-large' ? 413 : 400 }
  );
};
