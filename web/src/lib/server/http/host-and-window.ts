import { error } from '@sveltejs/kit';
import * as v from 'valibot';

/** Epoch milliseconds in an address. */
export const Moment = v.pipe(v.string(), v.regex(/^\d{1,16}$/), v.transform(Number));
const Asked = v.pipe(
  v.object({ host: v.pipe(v.string(), v.maxLength(300)), from: Moment, to: Moment }),
  v.check(({ from, to }) => to > from)
);

/** The host and the time that a question about counters is about. Answers 400 where they are none. */
export function hostAndWindow(url: URL): { host: string; window: { fromMs: number; toMs: number } } {
  const asked = v.safeParse(Asked, Object.fromEntries(url.searchParams));
  if (!asked.success) error(400, 'Expected a host, and from and to in epoch milliseconds, to after from.');
  const { host, from, to } = asked.output;
  return { host, window: { fromMs: from, toMs: to } };
}
