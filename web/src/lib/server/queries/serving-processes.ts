import { select } from '../db/reader';

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

/** By their number on their host: a number comes again, and the newest has it. */
export const byProcess = (list: readonly ServingProcess[]): Map<string, ServingProcess> =>
  new Map(list.filter(({ pid }) => pid > 0).map((one) => [processOf(one), one]));

/** What names a process on a host. */
export const processOf = ({ host, pid }: { host: string; pid: number }): string => `${host} ${pid}`;
