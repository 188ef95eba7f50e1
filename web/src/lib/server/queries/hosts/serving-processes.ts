import type { CounterSource } from '../counters';
import { select } from '../../db/reader';

/** A process that served requests. */
export interface ServingProcess {
  host: string;
  /** 0 where it is not told. */
  pid: number;
  service: string;
  release: string;
}

/** Processes that served requests, those that began last at the end. @param host only of it; '' for all */
export const servingProcesses = (host = ''): Promise<ServingProcess[]> =>
  select<ServingProcess>(
    `SELECT h.name AS host, r.pid AS pid, s.name AS service, l.name AS release FROM resources r JOIN hosts h ON h.id = r.host_id
      JOIN services s ON s.id = r.service_id JOIN releases l ON l.id = r.release_id
      WHERE r.first_us IS NOT NULL AND (? = '' OR h.name = ?) ORDER BY r.first_us`,
    [host, host]
  );

/** Who sends no service name is called so by OpenTelemetry's SDKs. */
export const isNamed = (service: string): boolean => service !== '' && !service.startsWith('unknown_service');

/** What names a process on a host. */
export const processOf = ({ host, pid }: { host: string; pid: number }): string => `${host} ${pid}`;

/** What a process serves. */
export type Served = Pick<ServingProcess, 'service' | 'release'>;

/** Tells of those who send counters which service they are of: that whose requests the process served, else the one that it, or another who tells of it, names. */
export class Serving {
  readonly served: readonly ServingProcess[];
  readonly #byProcess: ReadonlyMap<string, Served>;

  /** @param served a number comes again, and the newest, which comes last, has it. */
  constructor(served: readonly ServingProcess[], sources: readonly CounterSource[]) {
    this.served = served;
    const naming = sources.filter(({ service }) => isNamed(service));
    this.#byProcess = new Map(
      [...naming, ...served].filter(({ pid }) => pid > 0).map((one) => [processOf(one), one])
    );
  }

  of(source: CounterSource): Served | null {
    return (
      (source.pid > 0 ? this.#byProcess.get(processOf(source)) : undefined) ??
      (isNamed(source.service) ? source : null)
    );
  }

  /** '' for none. */
  serviceOf(source: CounterSource): string {
    return this.of(source)?.service ?? '';
  }
}
