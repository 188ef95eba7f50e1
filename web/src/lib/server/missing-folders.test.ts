import os from 'node:os';
import { expect, it } from 'vitest';
import { missingFolders } from './missing-folders';

it('folders that are named and not there are told, each in a line', async () => {
  const named = (folder: string): { setting: string; folder: string; without: string } => ({
    setting: 'TROMIX_SOURCES',
    folder,
    without: 'its lines are not shown'
  });
  const here = import.meta.filename;
  expect(await missingFolders([named(os.tmpdir()), named('/nowhere/at/all'), named(here)])).toEqual([
    'TROMIX_SOURCES: /nowhere/at/all is not there; its lines are not shown.',
    `TROMIX_SOURCES: ${here} is no folder; its lines are not shown.`
  ]);
});
