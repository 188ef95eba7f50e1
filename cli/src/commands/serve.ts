import path from 'node:path';
import type { Define } from '../command';
import { startServer } from '../start-server';

export interface ServeOptions {
  port?: string;
  host?: string;
  data?: string;
}

/** What options say, as settings; what they leave out stays as the environment has it. */
export const settingsOf = ({ port, host, data }: ServeOptions): Record<string, string> => ({
  ...(port === undefined ? {} : { PORT: port }),
  ...(host === undefined ? {} : { HOST: host }),
  ...(data === undefined ? {} : { TROMIX_DATA: data })
});

/** The data folder of a server that names none, in the folder it is started from. */
const DATA = '.tromix';

export const defineServe: Define = (command, outcome) => {
  command
    .option('--port <port>', 'port to listen on (default 4380, or PORT)')
    .option('--host <address>', 'address to listen on (default 127.0.0.1, or HOST); others need TROMIX_TOKEN')
    .option('--data <folder>', `data folder (default ${DATA} here, or TROMIX_DATA)`)
    .addHelpText('after', '\nEvery other setting is an environment variable: see the table in README.')
    .action((options: ServeOptions) => {
      const settings = { TROMIX_DATA: process.env.TROMIX_DATA || DATA, ...settingsOf(options) };
      console.log(`Data in ${path.resolve(settings.TROMIX_DATA)}`);
      startServer(settings, outcome);
    });
};
