import type { HostProcess } from '@tromix/core/findings/host-finding';
import { bytesColumn, countColumn, textColumn } from '$lib/ui/tables/column-makers';
import type { Column } from '$lib/ui/tables/columns';
import { corePercent, rateText } from './host-words';

const rate = (
  key: string,
  title: string,
  value: (row: HostProcess) => number | null
): Column<HostProcess> => ({
  key,
  title,
  width: 84,
  right: true,
  value,
  text: (row) => rateText(value(row))
});
const whole = (value: number | null): number | null => (value === null ? null : Math.round(value));

/** The processes of a host. */
export const PROCESS_COLUMNS: Column<HostProcess>[] = [
  { key: 'name', title: 'process', width: 130, grows: true, value: ({ name }) => name },
  {
    key: 'pid',
    title: 'pid',
    width: 62,
    right: true,
    value: ({ pid }) => pid,
    text: ({ pid }) => String(pid)
  },
  textColumn('serves', 'serves', ({ service, release }) => [service, release].filter(Boolean).join(' '), {
    width: 108,
    about: 'The service whose requests came from this process, and its release'
  }),
  {
    key: 'cpu',
    title: 'CPU',
    width: 62,
    right: true,
    about: 'Of one core, on average over all the time shown, also where it did not run',
    value: ({ cores }) => cores,
    text: ({ cores }) => corePercent(cores)
  },
  {
    key: 'bar',
    title: 'runs, waits',
    width: 100,
    about: 'Of all cores: what ran in its own code, in the system for it, and what waited for a core'
  },
  bytesColumn('memory', 'memory', ({ memoryBytes }) => memoryBytes, { width: 70 }),
  countColumn('threads', 'threads', ({ threads }) => whole(threads), { width: 58 }),
  rate('reads', 'reads', ({ reads }) => reads),
  rate('writes', 'writes', ({ writes }) => writes),
  countColumn('files', 'files', ({ openFiles }) => whole(openFiles), {
    width: 56,
    about: 'Files and sockets it holds open'
  })
];

/** Stands in files only. */
export const PROCESS_ALSO: Column<HostProcess>[] = [
  textColumn('command', 'command line', ({ commandLine }) => commandLine),
  textColumn('owner', 'owner', ({ owner }) => owner),
  { key: 'parent', title: 'parent', width: 0, value: ({ parentPid }) => parentPid },
  { key: 'waits', title: 'waits for a core, s/s', width: 0, value: ({ waits }) => waits }
];
