import path from 'node:path';
import { mkdirSync } from 'node:fs';
import { settingsFromEnvironment } from './platform/settings';
import { startLogs } from './platform/log';
import { startMetrics } from './platform/runtime-metrics';
import { startTelemetry } from './platform/telemetry';

const settings = settingsFromEnvironment(process.env);
const stopTelemetry = startTelemetry(settings);
const stopLogs = startLogs(settings);
const stopMetrics = startMetrics(settings);
mkdirSync(settings.dataFolder, { recursive: true });

// The services import HTTP, so they are loaded after telemetry has begun.
const { serve } = await import('./platform/http');
const { Database } = await import('./platform/database');
const { routesOf } = await import('./routes');

const ROUND_TRIP_MS = 4;
/** The disk of the slow host answers five times later. */
const SLOW_HOST = 'quay-4';
const slow = settings.host === SLOW_HOST && settings.faults.has('slow-host');
const file = path.join(settings.dataFolder, `${settings.service}-${settings.host}.sqlite`);
const database = new Database(file, settings.service, slow ? ROUND_TRIP_MS * 5 : ROUND_TRIP_MS);
const server = await serve(settings.port, await routesOf(settings, database));
process.send?.({ ready: settings.port });

let stopping = false;
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  server.close();
  server.closeAllConnections();
  await Promise.allSettled([stopTelemetry(), stopLogs(), stopMetrics()]);
  process.exit(0);
}
process.on('SIGTERM', () => void stop());
process.on('SIGINT', () => void stop());
process.on('disconnect', () => void stop());
