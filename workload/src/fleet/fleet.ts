import { fork, type ChildProcess } from 'node:child_process';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { reportOptions, type Died } from './crash-report';
import type { ServiceName } from '../platform/settings';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const STOP_MS = 4000;
const START_MS = 30_000;
/** A process that crashed is started again after so long. */
const AGAIN_MS = 1500;
const MOST_SAID = 20_000;

export interface Place {
  service: ServiceName;
  host: string;
  port: number;
  /** Address of the V8 inspector, where it listens. */
  inspectorPort: number;
}

/** Who runs where in Quillhaven. */
export function placesFrom(firstPort: number): Place[] {
  const places: [ServiceName, string][] = [
    ['gateway', 'quay-1'],
    ['berths', 'quay-2'],
    ['tides', 'quay-3'],
    ['manifests', 'quay-3'],
    ['manifests', 'quay-4'],
    ['pilots', 'quay-5']
  ];
  return places.map(([service, host], i) => ({
    service,
    host,
    port: firstPort + i,
    inspectorPort: firstPort + 100 + i
  }));
}

export interface FleetOptions {
  firstPort: number;
  otlpEndpoint: string;
  otlpEncoding?: 'protobuf' | 'json';
  dataFolder: string;
  /** Open the inspectors, so that profiles can be recorded. */
  inspect: boolean;
  /** Megabytes of the heap, by service: what fills it ends sooner. */
  heapLimits?: Partial<Record<ServiceName, number>>;
  /** Called with how a process ended that was not asked to, before it is started again. */
  onCrash?: (place: Place, release: string, died: Died) => void;
}

/** The services of Quillhaven as processes on this machine. */
export class Fleet {
  readonly places: Place[];
  readonly #options: FleetOptions;
  readonly #running = new Map<Place, ChildProcess>();

  constructor(options: FleetOptions) {
    this.#options = options;
    this.places = placesFrom(options.firstPort);
  }

  /** Where processes write how they ended. */
  get reports(): string {
    return path.join(this.#options.dataFolder, 'reports');
  }

  get gateway(): string {
    return address(this.places[0]);
  }

  pidOf(place: Place): number {
    return this.#running.get(place)?.pid ?? 0;
  }

  /** Starts every service with a release and its faults. */
  async start(release: string, faults: readonly string[]): Promise<void> {
    await Promise.all(this.places.map((place) => this.#start(place, release, faults)));
  }

  /** Stops a service wherever it runs and starts it again with another release. */
  async replace(service: ServiceName, release: string, faults: readonly string[]): Promise<void> {
    for (const place of this.places.filter((at) => at.service === service)) {
      await this.#stop(place);
      await this.#start(place, release, faults);
    }
  }

  async stop(): Promise<void> {
    await Promise.all(this.places.map((place) => this.#stop(place)));
  }

  async #start(place: Place, release: string, faults: readonly string[]): Promise<void> {
    const heap = this.#options.heapLimits?.[place.service];
    const peers: Record<string, string[]> = {};
    for (const at of this.places) (peers[at.service] ??= []).push(address(at));
    const child = fork(path.join(ROOT, 'run.mjs'), ['src/service.ts'], {
      cwd: ROOT,
      execArgv: [
        ...(this.#options.inspect ? [`--inspect=127.0.0.1:${place.inspectorPort}`] : []),
        ...(this.#options.onCrash ? reportOptions(this.reports) : []),
        ...(heap ? [`--max-old-space-size=${heap}`] : [])
      ],
      env: {
        ...process.env,
        // As OpenTelemetry's environment names a process, for whoever looks at it from outside.
        OTEL_SERVICE_NAME: place.service,
        OTEL_RESOURCE_ATTRIBUTES: `service.version=${release},host.name=${place.host}`,
        QH_SERVICE: place.service,
        QH_HOST: place.host,
        QH_RELEASE: release,
        QH_PORT: String(place.port),
        QH_PEERS: JSON.stringify(peers),
        QH_FAULTS: faults.join(',') || 'none',
        QH_DATA: this.#options.dataFolder,
        QH_OTLP: this.#options.otlpEndpoint,
        QH_COLLECT: this.#options.otlpEndpoint,
        QH_OTLP_ENCODING: this.#options.otlpEncoding ?? 'protobuf'
      },
      stdio: ['ignore', 'ignore', 'pipe', 'ipc']
    });
    this.#running.set(place, child);
    let said = '';
    child.stderr?.on('data', (part: Buffer) => (said = (said + String(part)).slice(-MOST_SAID)));
    const startedAtMs = Date.now();
    child.once('exit', (code, signal) => {
      // Whoever stops a process has it no longer running.
      if (this.#running.get(place) !== child || !ready) return;
      this.#options.onCrash?.(place, release, { pid: child.pid!, startedAtMs, code, signal, stderr: said });
      setTimeout(() => {
        if (this.#running.get(place) === child)
          void this.#start(place, release, faults).catch(() => undefined);
      }, AGAIN_MS);
    });
    let ready = false;
    await new Promise<void>((resolve, reject) => {
      const late = setTimeout(
        () => reject(new Error(`${place.service} on ${place.host} did not start in time. ${said}`)),
        START_MS
      );
      child.once('message', () => {
        clearTimeout(late);
        ready = true;
        resolve();
      });
      child.once('exit', (code) => {
        clearTimeout(late);
        reject(new Error(`${place.service} on ${place.host} ended with ${code}. ${said}`));
      });
    });
  }

  async #stop(place: Place): Promise<void> {
    const child = this.#running.get(place);
    this.#running.delete(place);
    if (!child || child.exitCode !== null) return;
    await new Promise<void>((resolve) => {
      const late = setTimeout(() => child.kill('SIGKILL'), STOP_MS);
      child.once('exit', () => {
        clearTimeout(late);
        resolve();
      });
      child.kill('SIGTERM');
    });
  }
}

const address = (place: Place): string => `http://127.0.0.1:${place.port}`;
