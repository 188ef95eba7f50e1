import { inspectPages, type InspectedPages } from '@tromix/core/inspect/pages';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { readHar } from '@tromix/core/pages/read-har';
import { formatBytes, formatDuration, plural } from '@tromix/core/text/format';
import type { KindOnCommandLine } from './kind';

/** Nobody keeps what is only inspected: its loads need no lasting name. */
const NO_NAME = '0'.repeat(64);
const ms = (value: number | null): string => (value === null ? 'not told' : formatDuration(value * 1e6));

export const pages: KindOnCommandLine<'har', PageLoad[], InspectedPages> = {
  read: async (file) => ({ part: readHar(await file.content(), NO_NAME) }),
  inspect: ([loads], { top }) => inspectPages(loads, top),
  *lines({ loads }) {
    for (const { page, at, firstByteMs, loadedMs, resources, bytes, failed, slowest } of loads) {
      yield `  ${page}, ${at}: first byte ${ms(firstByteMs)}, load event ${ms(loadedMs)}`;
      yield `  ${plural(resources, 'file')}, ${formatBytes(bytes)}${failed > 0 ? `, ${plural(failed, 'failed answer')}` : ''}`;
      for (const { name, kind, startMs, durationMs } of slowest)
        yield `    ${ms(durationMs).padStart(8)}  from ${ms(startMs).padStart(7)}  ${kind.padEnd(8)}  ${name}`;
      yield '';
    }
  }
};
