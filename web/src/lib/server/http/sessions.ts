import { createHash, randomBytes } from 'node:crypto';
import { selectJson } from '../db/reader';
import { Once } from '../once';
import { settings } from '../settings';
import { change } from '../workers';

/** How long somebody stays signed in, milliseconds. */
export const SESSION_MS = 7 * 24 * 3_600_000;
/** Use is noted no more often than this. */
const NOTE_MS = 5 * 60_000;
/** More browsers than this are not signed in at once: those used longest ago are signed out. */
const MAX_SESSIONS = 500;

/** A browser that is signed in. Times are epoch microseconds. */
export interface Session {
  id: string;
  createdAtUs: number;
  usedAtUs: number;
  expiresAtUs: number;
  address: string;
  agent: string;
}

const COLUMNS = 'id, created_at_us, used_at_us, expires_at_us, address, agent';

const sessions = new Once(async () => {
  const rows = await selectJson<[string, number, number, number, string, string]>(
    `SELECT json_group_array(json_array(${COLUMNS})) FROM sessions`
  );
  return new Map(
    rows.map(([id, createdAtUs, usedAtUs, expiresAtUs, address, agent]): [string, Session] => [
      id,
      { id, createdAtUs, usedAtUs, expiresAtUs, address, agent }
    ])
  );
});

/** What is stored of a cookie: with another access token it is no session any more. */
const idOf = (cookie: string): string =>
  createHash('sha256').update(`${settings().token}\n${cookie}`).digest('hex');

/** Begins a session. @returns the cookie's value, which is stored nowhere. */
export async function beginSession(address: string, agent: string): Promise<string> {
  const all = await sessions.get();
  const cookie = randomBytes(32).toString('base64url');
  const now = Date.now() * 1000;
  const session: Session = {
    id: idOf(cookie),
    createdAtUs: now,
    usedAtUs: now,
    expiresAtUs: now + SESSION_MS * 1000,
    address: address.slice(0, 100),
    agent: agent.slice(0, 300)
  };
  const spare = [...all.values()]
    .filter(({ expiresAtUs }) => expiresAtUs > now)
    .sort((a, b) => b.usedAtUs - a.usedAtUs)
    .slice(MAX_SESSIONS - 1);
  await store(session);
  all.set(session.id, session);
  for (const { id } of spare) await endSession(id);
  return cookie;
}

/** The session of a cookie; null for one that never was, has ended or expired. */
export async function sessionOf(cookie: string): Promise<Session | null> {
  if (cookie === '') return null;
  const session = (await sessions.get()).get(idOf(cookie));
  const now = Date.now() * 1000;
  if (!session || session.expiresAtUs <= now) return null;
  if (now - session.usedAtUs > NOTE_MS * 1000) {
    session.usedAtUs = now;
    // Nobody waits for this note.
    store(session).catch((cause: unknown) =>
      console.error('The use of a session could not be noted.', cause)
    );
  }
  return session;
}

/** Those that have not expired, the one used last first. */
export async function sessionList(): Promise<Session[]> {
  const now = Date.now() * 1000;
  return [...(await sessions.get()).values()]
    .filter(({ expiresAtUs }) => expiresAtUs > now)
    .sort((a, b) => b.usedAtUs - a.usedAtUs);
}

export async function endSession(id: string): Promise<void> {
  await change('endSession', id);
  (await sessions.get()).delete(id);
}

/** Ends all sessions. @param except one that goes on; '' for none. */
export async function endSessions(except: string): Promise<void> {
  await change('endSessions', except);
  const all = await sessions.get();
  for (const id of [...all.keys()]) if (id !== except) all.delete(id);
}

const store = (session: Session): Promise<void> => change('storeSession', session);
