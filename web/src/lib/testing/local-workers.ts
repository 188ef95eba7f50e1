import { openDatabase } from '$lib/server/db/client';
import { LocalDatabase } from '$lib/server/db/database';

/** In place of the server's threads: a test's own database, read in the test's thread. It is opened when first asked for, and when it is another. */
export function localWorkers(url: () => string) {
  let open: { url: string; database: LocalDatabase } | undefined;
  return {
    callWriter: (work: () => Promise<void>) => work(),
    readerDatabase: () => {
      if (open?.url !== url()) open = { url: url(), database: new LocalDatabase(openDatabase(url())) };
      return open.database;
    }
  };
}
