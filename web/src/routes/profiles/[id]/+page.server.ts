import { error } from '@sveltejs/kit';
import { BROWSERS } from '$lib/server/ingest/pages/page-errors';
import { evidenceOf, itemOfKind, type EvidenceItem } from '$lib/server/queries/evidence';
import { requestsDuring } from '$lib/server/queries/recorded-requests';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

type Profile = EvidenceItem<'profile'>;

/** Files that may be opened together. */
const MOST_TOGETHER = 16;

export const load: PageServerLoad = async ({ params, url }) => {
  const opened = await profileItem(params.id);
  const ids = url.searchParams.getAll('with').slice(0, MOST_TOGETHER - 1);
  const together = [opened, ...(await Promise.all(ids.map(profileItem)))];
  const profile = wholeOf(together);
  const others = (await evidenceOf('profile')).filter(
    ({ id, host, summary }) =>
      // Each load of a page may have one: they would hide those of processes.
      (host === BROWSERS) === (opened.host === BROWSERS) &&
      summary?.unit === opened.summary?.unit &&
      summary?.valueType === opened.summary?.valueType &&
      !together.some((one) => one.id === id)
  );
  return {
    profile,
    together,
    others,
    during: await requestsDuring(profile),
    hasSources: settings().sourceFolders.length > 0
  };
};

async function profileItem(id: string): Promise<Profile> {
  const item = await itemOfKind(id, 'profile');
  if (!item) error(404, 'There is no such profile. It may have been removed.');
  return item;
}

/** Several files as one: from the first's beginning to the last's end, where all tell when they began. */
function wholeOf(together: readonly Profile[]): Profile {
  const [first] = together;
  if (together.length === 1) return first;
  const starts = together.map(({ startedAtUs }) => startedAtUs);
  const known = starts.every((start) => start !== null);
  const from = known ? Math.min(...(starts as number[])) : 0;
  const ends = together.map(
    ({ startedAtUs, durationNs }) => (known ? (startedAtUs! - from) * 1000 : 0) + durationNs
  );
  const alike = (value: (item: Profile) => string): string =>
    together.every((item) => value(item) === value(first)) ? value(first) : '';
  return {
    ...first,
    name: `${together.length} files`,
    service: alike(({ service }) => service),
    host: alike(({ host }) => host),
    pid: together.every(({ pid }) => pid === first.pid) ? first.pid : 0,
    startedAtUs: known ? from : null,
    durationNs: Math.max(...ends)
  };
}
