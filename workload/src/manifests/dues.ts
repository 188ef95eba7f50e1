import { setTimeout as sleep } from 'node:timers/promises';
import { originAttributes } from '../platform/origin';
import type { Database, Statements } from '../platform/database';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';

/** One host settles the harbour dues for all. */
const SETTLES = 'quay-3';
const EVERY_MS = 14 * 60_000;
const FIRST_AFTER_MS = 10 * 60_000;
const LASTS_MS = 3 * 60_000;
const AT_ONCE = 8;
const TARIFF_MS = 230;
const MANIFESTS = 200;
const CLIENT = 2;

/** Settles the dues of all manifests now and then, several at once. */
export function settleDues(settings: Settings, database: Database): void {
  if (settings.host !== SETTLES) return;
  const settle = settings.faults.has('kept-connections') ? keeping : notKeeping;
  const round = async (): Promise<void> => {
    const endMs = Date.now() + LASTS_MS;
    let next = 0;
    const worker = async (): Promise<void> => {
      while (Date.now() < endMs) await settle(database, 1 + (next++ % MANIFESTS)).catch(() => undefined);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, worker));
  };
  setTimeout(() => {
    void round();
    setInterval(() => void round(), EVERY_MS).unref();
  }, FIRST_AFTER_MS).unref();
}

/** Keeps its connection while the tariff office thinks. */
const keeping = (database: Database, manifest: number): Promise<void> =>
  inSpan('settle dues', {}, () =>
    database.hold(async (connection) => {
      const tonnes = await tonnesOf(connection, manifest);
      await writeDues(connection, manifest, await askTariff(tonnes));
    })
  );

/** Gives its connection back before it asks, and takes one again. */
const notKeeping = (database: Database, manifest: number): Promise<void> =>
  inSpan('settle dues', {}, async () => {
    const tonnes = await tonnesOf(database, manifest);
    await writeDues(database, manifest, await askTariff(tonnes));
  });

async function tonnesOf(database: Statements, manifest: number): Promise<number> {
  const [row] = await database.all(
    'SELECT sum(tonnes) AS tonnes FROM manifest_line WHERE manifest_id = ?',
    manifest
  );
  return Number(row.tonnes);
}

/** A stand-in for an office outside, which is never in a hurry. */
const askTariff = (tonnes: number): Promise<number> =>
  inSpan(
    'GET',
    {
      'http.request.method': 'GET',
      'url.full': 'https://tariffs.quillhaven.example/dues',
      'server.address': 'tariffs.quillhaven.example',
      'http.response.status_code': 200,
      ...originAttributes()
    },
    async () => {
      await sleep(TARIFF_MS);
      return Math.round(tonnes * 1.35);
    },
    CLIENT
  );

const writeDues = (database: Statements, manifest: number, dues: number): Promise<void> =>
  database.run('UPDATE manifest SET dues = ? WHERE id = ?', dues, manifest);
