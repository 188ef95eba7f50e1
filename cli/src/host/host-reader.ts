import { existsSync, readFileSync } from 'node:fs';
import os from 'node:os';
import { CoreWaits } from './core-waits';
import { networkAndFiles, processorsAndMemory, topProcesses } from './any-host';
import { bootOf, containerMeasures, diskMeasures, memoryMeasures, processorMeasures } from './linux-host';
import { processTold, readProcess, type ProcessReading } from './linux-processes';
import type { Told } from './measures';
import { ProcFiles } from './proc-files';

/** A process that was among those that use most is told for so long afterwards, milliseconds: its lines do not come and go. */
const STAYS_MS = 600_000;

/** Reads a host and its processes, again and again. */
export class HostReader {
  readonly #files: ProcFiles;
  readonly #isLinux: boolean;
  readonly #host: Told['resource'];
  readonly #mostProcesses: number;
  readonly #waits: CoreWaits;
  #before = new Map<string, ProcessReading>();
  /** Processes that are told, and until when, epoch milliseconds. */
  readonly #told = new Map<string, number>();

  /** @param mostProcesses told by each of processor, memory, and storage */
  constructor(name: string, mostProcesses: number, files = new ProcFiles()) {
    this.#files = files;
    this.#waits = new CoreWaits(files);
    this.#isLinux = files.read('stat') !== null;
    this.#mostProcesses = mostProcesses;
    this.#host = { 'host.name': name, ...idOfHost(), 'os.type': os.platform() };
  }

  async read(nowMs: number): Promise<Told[]> {
    const own = this.#isLinux
      ? [...processorMeasures(this.#files), ...memoryMeasures(this.#files), ...diskMeasures(this.#files)]
      : await processorsAndMemory();
    const host: Told = {
      resource: this.#host,
      sinceMs: this.#isLinux ? bootOf(this.#files) : 0,
      measures: [...own, ...(await networkAndFiles()), ...containerMeasures()]
    };
    const processes = this.#isLinux
      ? this.#processes(nowMs)
      : await topProcesses(this.#host, this.#mostProcesses);
    return [host, ...processes];
  }

  #processes(nowMs: number): Told[] {
    const bootMs = bootOf(this.#files);
    const now = new Map<string, ProcessReading>();
    for (const pid of this.#files.pids()) {
      const reading = readProcess(this.#files, pid, bootMs);
      if (reading) now.set(keyOf(reading), reading);
    }
    for (const key of this.#greatest(now)) this.#told.set(key, nowMs + STAYS_MS);
    for (const [key, untilMs] of this.#told) if (untilMs < nowMs || !now.has(key)) this.#told.delete(key);
    this.#before = now;
    this.#waits.keepOnly(this.#told);
    return [...this.#told.keys()].map((key) => {
      const reading = now.get(key)!;
      return processTold(reading, this.#host, this.#waits.waitedS(key, reading.pid));
    });
  }

  /** The processes that used most since the last reading; at the first, since they began. */
  #greatest(now: ReadonlyMap<string, ProcessReading>): Set<string> {
    const since = (of: (reading: ProcessReading) => number) => (reading: ProcessReading) => {
      const before = this.#before.get(keyOf(reading));
      return of(reading) - (before ? of(before) : 0);
    };
    const ranks = [
      since(({ userS, systemS }) => userS + systemS),
      ({ residentBytes }: ProcessReading) => residentBytes,
      since(({ readBytes, writtenBytes }) => (readBytes ?? 0) + (writtenBytes ?? 0))
    ];
    const list = [...now.values()];
    return new Set(
      ranks.flatMap((rank) =>
        list
          .map((reading) => ({ key: keyOf(reading), value: rank(reading) }))
          .filter(({ value }) => value > 0)
          .sort((a, b) => b.value - a.value)
          .slice(0, this.#mostProcesses)
          .map(({ key }) => key)
      )
    );
  }
}

/** A pid comes again: with its start it is one process. */
const keyOf = ({ pid, startedMs }: ProcessReading): string => `${pid} ${startedMs}`;

/** What tells two hosts of one name apart (semantic conventions, `host.id`: the machine id). */
function idOfHost(): { 'host.id'?: string } {
  const file = '/etc/machine-id';
  const id = existsSync(file) ? readFileSync(file, 'utf8').trim() : '';
  return id ? { 'host.id': id } : {};
}
