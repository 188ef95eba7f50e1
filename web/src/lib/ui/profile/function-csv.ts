import type { FunctionWeight } from '@tromix/core/profile/functions';
import { toCsv } from '@tromix/core/text/csv';
import type { OpenedProfile } from '$lib/workers/profile.worker';

const HEAD = [
  'name',
  'file',
  'line',
  'column',
  'package',
  'kind',
  'self',
  'total',
  'unit',
  'requests',
  'calls'
];

/** Functions as a file. @param requests how many the weights are of; 0 where that is not known */
export function functionCsv(
  { frames, unit, calls }: Pick<OpenedProfile, 'frames' | 'unit' | 'calls'>,
  rows: readonly FunctionWeight[],
  requests: number
): string {
  const lines = rows.map(({ frame, self, total }) => {
    const { name, file, line, column, package: from, kind } = frames[frame];
    const weights = [Math.round(self), Math.round(total), unit];
    return [name, file, line, column, from, kind, ...weights, requests || '', calls?.[frame] || ''];
  });
  return toCsv(HEAD, lines);
}
