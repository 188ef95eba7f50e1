import { Fleet, type Place } from './fleet/fleet';
import { agentSteps } from './fleet/agent-steps';
import { processEndOf, type Died } from './fleet/crash-report';
import { officeAtWork } from './fleet/office';
import { HostStandIn } from './hosts/stand-in';
import { FAULTS } from './platform/settings';

/**
 * Runs Quillhaven beside an application that takes its traces, until it is stopped.
 * Environment: QH_OTLP (where traces go), QH_DATA (the services' files), QH_FIRST_PORT, QH_FIXED (faults switched off: names, or all),
 * QH_RELEASE (of all services; without it 7.2, and of berths the one with the fault or without), QH_USERS (0 for no load), QH_THINK_SECONDS, QH_AGENTS (1 for ship agents beside the harbour office).
 */
const env = process.env;
const fixed = new Set((env.QH_FIXED ?? '').split(',').filter(Boolean));
const unknown = [...fixed].filter((name) => name !== 'all' && !(FAULTS as readonly string[]).includes(name));
if (unknown.length > 0) {
  console.error(`There is no fault ${unknown.join(', ')}. The faults are ${FAULTS.join(', ')}.`);
  process.exit(2);
}
const faults = fixed.has('all') ? [] : FAULTS.filter((fault) => !fixed.has(fault));
/** Ship agents too, whose requests bring processes down. */
const withAgents = env.QH_AGENTS === '1';
const fleet = new Fleet({
  firstPort: Number(env.QH_FIRST_PORT ?? 4400),
  otlpEndpoint: env.QH_OTLP ?? 'http://127.0.0.1:4380',
  otlpEncoding: env.QH_OTLP_ENCODING === 'json' ? 'json' : 'protobuf',
  dataFolder: env.QH_DATA ?? 'data',
  inspect: true,
  ...(withAgents ? { heapLimits: { tides: 96 }, onCrash: handOver } : {})
});

/** As `tromix run` does. */
function handOver({ service, host }: Place, release: string, died: Died): void {
  const query = new URLSearchParams({
    name: 'process-end.json',
    service,
    host,
    release,
    pid: String(died.pid)
  });
  void fetch(`${env.QH_OTLP ?? 'http://127.0.0.1:4380'}/api/evidence?${query}`, {
    method: 'POST',
    body: processEndOf(fleet.reports, died)
  }).catch(() => undefined);
}

const HOSTS_EVERY_MS = 10_000;

/** The invented hosts tell of themselves, as `tromix host` would on each. */
function hostsTell(): void {
  const standIn = new HostStandIn(
    fleet.places.map(({ host }) => host),
    Date.now()
  );
  setInterval(() => {
    const nowMs = Date.now();
    const processes = fleet.places.map((place) => ({
      host: place.host,
      service: place.service,
      pid: fleet.pidOf(place),
      fromMs: nowMs,
      toMs: nowMs
    }));
    void fetch(`${env.QH_OTLP ?? 'http://127.0.0.1:4380'}/v1/metrics`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(standIn.readAt(nowMs, processes))
    }).catch(() => undefined);
  }, HOSTS_EVERY_MS).unref();
}

const stopped = new AbortController();
async function stop(): Promise<void> {
  if (stopped.signal.aborted) return;
  stopped.abort();
  await fleet.stop();
  process.exit(0);
}
for (const signal of ['SIGINT', 'SIGTERM', 'disconnect'] as const) process.on(signal, () => void stop());

// The release that has the fault, or the one that mends it.
const isFixed = fixed.size > 0;
await fleet.start(env.QH_RELEASE || '7.2', faults);
if (!env.QH_RELEASE) await fleet.replace('berths', isFixed ? '7.4' : '7.3', faults);
hostsTell();
process.send?.({ ready: fleet.gateway });
console.log(`Quillhaven answers at ${fleet.gateway}`);

const users = Number(env.QH_USERS ?? 3);
if (users > 0 && withAgents)
  void officeAtWork(fleet.gateway, {
    users: 2,
    rampUpSeconds: 3,
    pauseSeconds: 2,
    signal: stopped.signal,
    steps: agentSteps(fleet.gateway)
  });
if (users > 0) {
  await officeAtWork(fleet.gateway, {
    users,
    rampUpSeconds: 3,
    pauseSeconds: Number(env.QH_THINK_SECONDS ?? 3),
    signal: stopped.signal
  });
}
