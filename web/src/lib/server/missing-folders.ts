import { stat } from 'node:fs/promises';

/** A setting that names a folder, and what does not happen while there is none. */
export interface NamedFolder {
  setting: string;
  folder: string;
  without: string;
}

/** A line for each folder that is named and not there, or is a file: it may still come, and nothing else would tell. */
export async function missingFolders(named: readonly NamedFolder[]): Promise<string[]> {
  const told = await Promise.all(
    named.map(async ({ setting, folder, without }) => {
      const found = await stat(folder).catch(() => null);
      if (found?.isDirectory()) return [];
      return [`${setting}: ${folder} is ${found ? 'no folder' : 'not there'}; ${without}.`];
    })
  );
  return told.flat();
}
