import { readArchive } from '../formats/har';
import { sendable, type ReadSteps } from './curl';
import { LIMITS } from './plan';

/** The requests of an HTTP Archive in the order in which they were made. */
export function readHar(text: string): ReadSteps {
  const read = readArchive(text);
  if (!read.ok) return read;
  const { entries } = read.log;
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
