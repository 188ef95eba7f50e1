import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { inTimeRange, TIME_RANGE } from '@tromix/core/trace/time-range';
import { progressing, TooSlow } from '$lib/server/http/read-body';
import { takeEvidence } from '$lib/server/evidence/take-evidence';
import type { RequestHandler } from './$types';

const label = v.optional(v.pipe(v.string(), v.maxLength(300)), '');
const whole = v.pipe(v.string(), v.regex(/^\d{1,17}$/, 'expected an integer'), v.transform(Number));

const Label = v.object({
  name: label,
  service: label,
  host: label,
  release: label,
  pid: v.optional(v.pipe(whole, v.maxValue(2 ** 32 - 1, 'expected a process id'))),
  keepDays: v.optional(v.pipe(whole, v.minValue(1, 'expected a number of days'), v.maxValue(36_500))),
  startedAtUs: v.optional(
    v.pipe(whole, v.check(inTimeRange, `expected microseconds since 1970, within ${TIME_RANGE}`))
  )
});

/** What a refusal means to whoever speaks HTTP; the others are faults of the file. */
const STATUS: Record<string, number> = {
  'too-large': 413,
  'inflated-too-large': 413,
  'reader-died': 422,
  'set-aside': 422,
  busy: 503,
  'disk-full': 507
};

/** Takes one file as the request's body; what is known of it beside its content stands in the query. */
export const POST: RequestHandler = async ({ request, url }) => {
  const parsed = v.safeParse(Label, Object.fromEntries(url.searchParams));
  if (!parsed.success) {
    const [issue] = parsed.issues;
    return json(
      { code: 'wrong-label', message: `Invalid ${String(issue.path?.[0]?.key)}: ${issue.message}.` },
      { status: 400 }
    );
  }
  if (!request.body)
    return json(
      { code: 'empty', message: 'The file is empty: 0 bytes were found. Choose one with content.' },
      { status: 400 }
    );
  const { pid = 0, startedAtUs = null, ...names } = parsed.output;
  const body = progressing(request.body as unknown as AsyncIterable<Uint8Array>);
  try {
    const outcome = await takeEvidence(body, { ...names, pid, startedAtUs });
    if (outcome.ok) return json(outcome.value, { status: 201 });
    const { code, message, offset } = outcome;
    return json({ code, message, offset }, { status: STATUS[code] ?? 400 });
  } catch (cause) {
    if (!(cause instanceof TooSlow)) throw cause;
    return json({ code: 'too-slow', message: cause.message }, { status: 408 });
  }
};
