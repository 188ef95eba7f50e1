import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { readPlan } from '@tromix/core/load/plan';
import { sendRun } from './send';

const REQUESTS = 800;
const A_SECOND = 1000;
/** A machine that has no time for this is not kept waiting. */
const MAX_MS = 3000;

/**
 * Sends a run to a server within this thread, so that the driver’s own code is compiled before it measures: else some of the first hundreds of requests of
 * each run would take milliseconds longer, and it would be its own.
 */
export async function warmUpDriver(): Promise<void> {
  const server = http.createServer((request, response) => {
    request.resume();
    response.end('{}');
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
  const read = readPlan({
    rate: A_SECOND,
    loops: REQUESTS,
    timeoutSeconds: 1,
    steps: [{ url, method: 'POST', body: '{}' }]
  });
  if (!read.ok) throw new Error(read.message);
  await sendRun({
    key: '0000000000000000',
    plan: read.plan,
    targets: [],
    onSample: () => undefined,
    signal: AbortSignal.timeout(MAX_MS)
  });
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
}
