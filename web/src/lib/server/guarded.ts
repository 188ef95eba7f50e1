import type { AsideKind } from './ingest/set-aside';
import { publish } from './live';
import { ThreadEnded } from './thread';
import { callWriter } from './workers';

/** Something is not tried again, because it ended its thread twice. */
export class NotTried extends Error {}

/**
 * Does some work on something in a thread. Where the thread dies of it, that is noted; what it dies of twice is set aside.
 * @throws NotTried for what is set aside; ThreadEnded where the thread died.
 */
export async function guarded<T>(
  { kind, id, name }: { kind: AsideKind; id: string; name: string },
  work: () => Promise<T>
): Promise<T> {
  if (await callWriter((writer) => writer.isAside(kind, id)))
    throw new NotTried(
      `Reading ${name || 'it'} ended the thread that reads, twice. It is set aside and not tried again by itself.`
    );
  try {
    return await work();
  } catch (cause) {
    if (cause instanceof ThreadEnded && cause.calls <= 1) {
      const reason = `Reading it ended the thread that does so. ${cause.message}`;
      await callWriter((writer) => writer.noteDeath({ kind, id, name, reason }));
      publish('evidence');
    }
    throw cause;
  }
}
