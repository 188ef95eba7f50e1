import { rmSync } from 'node:fs';
import path from 'node:path';
import type { Define } from '../command';
import { PLACES } from '../places';
import { startServer } from '../start-server';
import { settingsOf } from './serve';

/** Made anew at each start: the times of the demo data are shifted to the present. */
const DATA = '.tromix/demo';

export const defineDemo: Define = (command, outcome) => {
  command
    .option('--port <port>', 'port to listen on (default 4380, or PORT)')
    .action((options: { port?: string }) => {
      rmSync(path.resolve(DATA), { recursive: true, force: true });
      startServer(
        {
          ...settingsOf(options),
          TROMIX_DATA: DATA,
          TROMIX_DEMO: PLACES.recordings,
          TROMIX_SOURCES: PLACES.sources
        },
        outcome
      );
    });
};
