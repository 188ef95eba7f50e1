import { json } from '@sveltejs/kit';
import { beginSession, sessionOf } from '$lib/server/assistant/sessions';
import { withBody } from '$lib/server/http/read-body';
import { settings } from '$lib/server/settings';
import type { RequestHandler } from './$types';

/** Questions are short. */
const MAX_BYTES = 64 * 1024;
/** Codes of JSON-RPC 2.0, and HTTP statuses of the transport (Model Context Protocol, Streamable HTTP). */
const refused = (status: number, message: string, code = -32_000): Response =>
  json({ jsonrpc: '2.0', error: { code, message }, id: null }, { status });

const OFF = 'This server does not answer assistants. Who runs it can switch that on: TROMIX_MCP=1.';
const ENDED = 'This conversation has ended. Begin another with "initialize".';

/** The Model Context Protocol over HTTP: questions of an assistant, each answered whole. */
export const POST: RequestHandler = async ({ request, url }) => {
  if (!settings().answersAssistants) return refused(404, OFF);
  let parsedBody: unknown;
  try {
    parsedBody = await withBody(request, MAX_BYTES, (body) =>
      Promise.resolve(JSON.parse(new TextDecoder().decode(body)) as unknown)
    );
  } catch {
    return refused(400, `Expected JSON of at most ${MAX_BYTES} bytes.`, -32_700);
  }
  const id = request.headers.get('mcp-session-id');
  const session = id === null ? await beginSession(url.origin) : sessionOf(id);
  return session ? session.handleRequest(request, { parsedBody }) : refused(404, ENDED);
};

/** Nothing is ever sent that was not asked for. */
export const GET: RequestHandler = () =>
  settings().answersAssistants
    ? refused(405, 'There is no stream of news here: ask by POST.')
    : refused(404, OFF);

/** Ends a conversation. */
export const DELETE: RequestHandler = async ({ request }) => {
  if (!settings().answersAssistants) return refused(404, OFF);
  const session = sessionOf(request.headers.get('mcp-session-id') ?? '');
  return session ? session.handleRequest(request) : refused(404, ENDED);
};
