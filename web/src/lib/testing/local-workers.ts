import { openDatabase } from '$lib/server/db/client';
import { LocalDatabase } from '$lib/server/db/database';

/** In place of the server's threads: a test's own database, read in the test's thread. It is opened when first asked for. */
export function localWorkers(url: () => string) {
  let database: LocalDatabase | undefined;
  return {
    callWriter: (work: () => Promise<void>) => work(),
    readerDatabase: () => (database ??= new LocalDatabase(openDatabase(url())))
  };
}
