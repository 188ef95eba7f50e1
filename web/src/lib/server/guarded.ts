import { selectJson } from './db/reader';
import type { AsideKind } from './ingest/set-aside';
import { publish } from './live';
import { Once } from './once';
import { ThreadEnded } from './thread';
import { callWriter } from './workers';

/** Something is not tried again, because it ended its thread twice. */
export class NotTried extends Error {}

/** What is set aside, as `kind id`: known here, so that asking costs nothing. */
const aside = new Once(
  async () =>
    new Set(
      await selectJson<string>("SELECT json_group_array(kind || ' ' || id) FROM set_aside WHERE aside = 1")
    )
);

/**
 * Does some work on something in a thread. Where the thread dies of it, that is noted; what it dies of twice is set aside.
 * @throws NotTried for what is set aside; ThreadEnded where the thread died.
 */
export async function guarded<T>(
  { kind, id, name }: { kind: AsideKind; id: string; name: string },
  work: () => Promise<T>
): Promise<T> {
  if ((await aside.get()).has(`${kind} ${id}`))
    throw new NotTried(
      `Reading ${name || 'it'} ended the thread that reads, twice. It is set aside and not tried again by itself.`
    );
  try {
    return await work();
  } catch (cause) {
    if (cause instanceof ThreadEnded && cause.calls <= 1) {
      const reason = `Reading it ended the thread that does so. ${cause.message}`;
      if (await callWriter((writer) => writer.noteDeath({ kind, id, name, reason })))
        (await aside.get()).add(`${kind} ${id}`);
      publish('evidence');
    }
    throw cause;
  }
}

/** Lets something be tried again that was set aside. */
export async function tryAgain(kind: AsideKind, id: string): Promise<void> {
  await callWriter((writer) => writer.retry(kind, id));
  (await aside.get()).delete(`${kind} ${id}`);
  publish('evidence');
}
