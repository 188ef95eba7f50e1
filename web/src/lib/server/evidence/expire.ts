import { select } from '../db/reader';
import { removeEvidence } from './remove-evidence';

const LOOK_MS = 60 * 60_000;
const AT_ONCE = 100;

/** Removes evidence whose days are over, as whoever gathered it said; what a case stands on stays. @returns how much went */
export async function removeExpired(nowMs: number): Promise<number> {
  const over = await select<{ id: string; kind: string }>(
    `SELECT id, kind FROM evidence WHERE keep_until_us < ?
      AND NOT EXISTS (SELECT 1 FROM case_evidence c WHERE c.kind = 'file' AND c.ref = evidence.id) LIMIT ${AT_ONCE}`,
    [nowMs * 1000]
  );
  for (const one of over) await removeEvidence(one);
  return over.length;
}

/** Looks every hour until the server ends. */
export function keepExpiring(): void {
  setInterval(
    () =>
      void removeExpired(Date.now()).catch((cause: unknown) =>
        console.error(`Old evidence could not be removed: ${(cause as Error).message}`)
      ),
    LOOK_MS
  ).unref();
}
