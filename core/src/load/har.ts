import * as v from 'valibot';
import { parseJson } from '../formats/parse-json';
import { sendable, type ReadSteps } from './curl';
import { LIMITS } from './plan';

const Pair = v.object({ name: v.string(), value: v.string() });
/** What is read of an HTTP Archive. Source: HAR 1.2 (W3C Web Performance group, historical draft), from memory. */
const Archive = v.object({
  log: v.object({
    entries: v.array(
      v.object({
        request: v.object({
          method: v.string(),
          url: v.string(),
          headers: v.optional(v.array(Pair), () => []),
          postData: v.optional(v.nullable(v.object({ text: v.optional(v.string(), '') })))
        })
      })
    )
  })
});

/** The requests of an HTTP Archive in the order in which they were made. */
export function readHar(text: string): ReadSteps {
  let value: unknown;
  try {
    value = parseJson(text.replace(/^\uFEFF/, ''));
  } catch (cause) {
    return { ok: false, message: `Expected an HTTP Archive (HAR) as JSON. ${(cause as Error).message}.` };
  }
  const read = v.safeParse(Archive, value);
  if (!read.success) {
    const [issue] = read.issues;
    const place = (issue.path ?? []).map(({ key }) => String(key)).join('.');
    return {
      ok: false,
      message: `Expected an HTTP Archive (HAR 1.2), but ${place || 'the document'} is not as expected: ${issue.message}.`
    };
  }
  const { entries } = read.output.log;
  const web = entries.filter(({ request }) => /^https?:\/\//i.test(request.url));
  if (web.length === 0)
    return { ok: false, message: 'The HTTP Archive holds no request to an http or https address.' };
  const notes = new Set<string>();
  const others = entries.length - web.length;
  if (others > 0) notes.add(`Left out: ${others} of ${entries.length} requests, which are not HTTP.`);
  if (web.length > LIMITS.steps)
    notes.add(`Only the first ${LIMITS.steps} of ${web.length} requests are taken.`);
  const steps = web.slice(0, LIMITS.steps).map(({ request: { method, url, headers, postData } }) => {
    const { kept, notes: dropped } = sendable(headers.map(({ name, value }) => [name, value] as const));
    for (const note of dropped) notes.add(note);
    return { method, url: url.replace(/#.*$/s, ''), headers: kept, body: postData?.text ?? '' };
  });
  return { ok: true, steps, notes: [...notes] };
}
