import { createClient as createPlain, type Client, type Config } from '@libsql/client/node';
import { startHrana } from './server';

// Stands in for libSQL’s client when the tests of the server run against a libSQL server (vitest.remote.config.ts): what they open as a file is opened through the
// stand-in of such a server.

export * from '@libsql/client/node';

const server = await startHrana();
/** As it is now: tests put others in its place. */
const { fetch } = globalThis;

export const createClient = (config: Config): Client =>
  createPlain(
    config.url.startsWith('file:')
      ? { ...config, fetch, url: server.urlOf(config.url.slice('file:'.length)) }
      : config
  );
