import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { withBody } from './read-body';

/** Settings are short. */
const MAX_BYTES = 64 * 1024;

/** Reads a JSON body by a schema; what does not fit it is said in words. */
export async function readJson<S extends v.GenericSchema>(
  request: Request,
  schema: S,
  maxBytes = MAX_BYTES
): Promise<{ ok: true; value: v.InferOutput<S> } | { ok: false; message: string }> {
  let content: unknown;
  try {
    content = await withBody(request, maxBytes, (body) =>
      Promise.resolve(JSON.parse(new TextDecoder().decode(body)) as unknown)
    );
  } catch {
    return { ok: false, message: `Expected a JSON object of at most ${maxBytes} bytes.` };
  }
  const parsed = v.safeParse(schema, content);
  if (parsed.success) return { ok: true, value: parsed.output };
  const [issue] = parsed.issues;
  const where = issue.path?.map(({ key }) => String(key)).join('.') ?? '';
  return { ok: false, message: `${where ? `${where}: ` : ''}${issue.message}` };
}

export const refused = (message: string, status = 400): Response => json({ message }, { status });
