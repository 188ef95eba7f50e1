import * as v from 'valibot';
import type { FileHead } from './file-head';
import { parseJson } from './parse-json';

// HTTP Archives. Source: HAR 1.2 (W3C Web Performance group, historical draft), from memory. −1 stands for “does not apply” or “not known” there.

const Pair = v.object({ name: v.string(), value: v.string() });
const Milliseconds = v.optional(v.nullable(v.number()), -1);

const Timings = v.object({
  blocked: Milliseconds,
  dns: Milliseconds,
  connect: Milliseconds,
  /** Part of `connect`. */
  ssl: Milliseconds,
  send: Milliseconds,
  wait: Milliseconds,
  receive: Milliseconds
});

const Entry = v.object({
  pageref: v.optional(v.string(), ''),
  startedDateTime: v.optional(v.string(), ''),
  time: Milliseconds,
  request: v.object({
    method: v.string(),
    url: v.string(),
    headers: v.optional(v.array(Pair), () => []),
    postData: v.optional(v.nullable(v.object({ text: v.optional(v.string(), '') })))
  }),
  /** null where it is not told, or not as expected: what was asked is known all the same. */
  response: v.fallback(
    v.nullable(
      v.object({
        status: v.optional(v.number(), 0),
        headers: v.optional(v.array(Pair), () => []),
        headersSize: v.optional(v.number(), -1),
        bodySize: v.optional(v.number(), -1),
        content: v.optional(
          v.object({ size: v.optional(v.number(), -1), mimeType: v.optional(v.string(), '') })
        )
      })
    ),
    null
  ),
  timings: v.fallback(v.nullable(Timings), null)
});
export type HarEntry = v.InferOutput<typeof Entry>;

const Page = v.object({
  id: v.string(),
  startedDateTime: v.string(),
  title: v.optional(v.string(), ''),
  pageTimings: v.optional(v.object({ onContentLoad: Milliseconds, onLoad: Milliseconds }))
});
export type HarPage = v.InferOutput<typeof Page>;

const Archive = v.object({
  log: v.object({ pages: v.optional(v.array(Page), () => []), entries: v.array(Entry) })
});
export type HarLog = v.InferOutput<typeof Archive>['log'];

/** An HTTP Archive as it is read, or what is wrong with it in words. */
export type ReadArchive = { ok: true; log: HarLog } | { ok: false; message: string };

/** Whether a file is an HTTP Archive, by its beginning. */
export const looksLikeHar = ({ text }: FileHead): boolean =>
  /^\{\s*"log"\s*:\s*\{\s*"(?:version|creator|browser|pages|entries|comment)"/.test(text);

/** Reads an HTTP Archive. */
export function readArchive(text: string): ReadArchive {
  let value: unknown;
  try {
    value = parseJson(text.replace(/^\uFEFF/, ''));
  } catch (cause) {
    return { ok: false, message: `Expected an HTTP Archive (HAR) as JSON. ${(cause as Error).message}.` };
  }
  const read = v.safeParse(Archive, value);
  if (read.success) return { ok: true, log: read.output.log };
  const [issue] = read.issues;
  const place = (issue.path ?? []).map(({ key }) => String(key)).join('.');
  return {
    ok: false,
    message: `Expected an HTTP Archive (HAR 1.2), but ${place || 'the document'} is not as expected: ${issue.message}.`
  };
}
