import { setTimeout as sleep } from 'node:timers/promises';
import type { Database } from '../platform/database';
import type { Routes } from '../platform/http';
import { Lock } from '../platform/lock';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';

const POST_MS = 110;

/** The pilots' roster. Whoever writes it holds its lock, and tells the pilot house while holding it. */
export function pilotsRoutes(settings: Settings, database: Database): Routes {
  database.setUp('create table if not exists roster (pilot integer, watch text)');
  const ledger = new Lock('pilot ledger');
  const tellPilotHouse = (): Promise<void> =>
    inSpan(
      'tell pilot house',
      {
        'messaging.system': 'harbour-radio',
        'messaging.operation.name': 'send',
        'messaging.destination.name': 'pilot-house'
      },
      () => sleep(POST_MS)
    );
  const write = (pilot: number): Promise<void> =>
    database.run('INSERT INTO roster (pilot, watch) VALUES (?, ?)', pilot, 'first');
  return {
    'POST /roster/entries': async ({ body }) => {
      const { pilot } = body as { pilot: number };
      if (settings.faults.has('lock-queue')) {
        await ledger.hold(async () => {
          await write(pilot);
          await tellPilotHouse();
        });
      } else {
        await ledger.hold(() => write(pilot));
        void tellPilotHouse();
      }
      return { pilot, entered: true };
    }
  };
}
