// See rescue.mjs.
import path from 'node:path';
import { rescue } from '../web/src/lib/server/db/rescue';

const [given] = process.argv.slice(2);
const root = path.resolve(import.meta.dirname, '..');
const file = given ? path.resolve(given) : path.join(root, 'data/live/tromix.sqlite');
try {
  const { copy, tables } = await rescue(file, path.join(root, 'web/drizzle'));
  for (const { table, rows, incomplete } of tables)
    if (rows > 0 || incomplete)
      console.log(`${table}: ${rows} rows saved${incomplete ? ', the rest could not be read' : ''}`);
  console.log(`The damaged file is kept as ${copy}. Start the server as before.`);
} catch (cause) {
  console.error((cause as Error).message);
  process.exit(1);
}
