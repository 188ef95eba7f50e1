import { readdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { selectJson } from '../db/reader';

/** What is in a folder; nothing where there is no such folder. */
const namesIn = (folder: string): Promise<string[]> => readdir(folder).catch(() => []);

/**
 * Removes what a server that was killed has left behind: files taken in but not kept, recordings under way, indexes half built, and files and
 * indexes that no row names. To be called before anything is taken in.
 * @returns files and folders removed, and evidence kept though no row names it, because the database has none at all: it may be another one than before.
 */
export async function cleanLeftOver(dataFolder: string): Promise<{ removed: number; unlisted: number }> {
  const listed = new Set(await selectJson<string>('SELECT json_group_array(id) FROM evidence'));
  let removed = 0;
  let unlisted = 0;
  const remove = async (place: string): Promise<void> => {
    await rm(place, { recursive: true, force: true });
    removed++;
  };
  const evidence = path.join(dataFolder, 'evidence');
  for (const folder of [path.join(evidence, 'incoming'), path.join(dataFolder, 'recording')])
    for (const name of await namesIn(folder)) await remove(path.join(folder, name));
  for (const prefix of await namesIn(evidence)) {
    if (!/^[0-9a-f]{2}$/.test(prefix)) continue;
    for (const id of await namesIn(path.join(evidence, prefix))) {
      if (listed.has(id)) continue;
      if (listed.size === 0) unlisted++;
      else await remove(path.join(evidence, prefix, id));
    }
  }
  const index = path.join(dataFolder, 'index');
  for (const version of await namesIn(index))
    for (const name of await namesIn(path.join(index, version)))
      if (name.endsWith('.partial') || !listed.has(name.slice(0, 64)))
        await remove(path.join(index, version, name));
  return { removed, unlisted };
}
