import { randomUUID } from 'node:crypto';
import { WebStandardStreamableHTTPServerTransport } from '@modelcontextprotocol/sdk/server/webStandardStreamableHttp.js';
import { assistantServer } from './server';

/** Conversations that are open at once; beyond, the one that was silent longest ends. */
const MOST_SESSIONS = 64;
/** A conversation that is silent for so long has ended. */
const SILENT_MS = 30 * 60_000;

interface Session {
  transport: WebStandardStreamableHTTPServerTransport;
  lastMs: number;
}
const sessions = new Map<string, Session>();

/** The conversation of an id; null for one that ended, or never was. */
export function sessionOf(id: string): WebStandardStreamableHTTPServerTransport | null {
  const session = sessions.get(id);
  if (!session) return null;
  session.lastMs = Date.now();
  return session.transport;
}

/** A conversation that begins. It is known by its id once its first message has been taken. */
export async function beginSession(origin: string): Promise<WebStandardStreamableHTTPServerTransport> {
  endSilent();
  const transport = new WebStandardStreamableHTTPServerTransport({
    sessionIdGenerator: () => randomUUID(),
    // Every answer is whole at once: no stream is held open for it.
    enableJsonResponse: true,
    onsessioninitialized: (id) => void sessions.set(id, { transport, lastMs: Date.now() }),
    onsessionclosed: (id) => void sessions.delete(id)
  });
  await assistantServer(origin).connect(transport);
  return transport;
}

function endSilent(): void {
  const byAge = [...sessions].sort(([, a], [, b]) => a.lastMs - b.lastMs);
  byAge.forEach(([id, { transport, lastMs }], i) => {
    if (Date.now() - lastMs < SILENT_MS && byAge.length - i < MOST_SESSIONS) return;
    sessions.delete(id);
    void transport.close();
  });
}
