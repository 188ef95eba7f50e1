import { json } from '@sveltejs/kit';
import { sentenceOf } from '@tromix/core/watch/notice';
import { watchName } from '@tromix/core/watch/watch';
import { reader } from '$lib/server/db/reader';
import { firingsOf } from '$lib/server/watch/queries';
import type { WatchNews } from '$lib/server/watch/news';
import { readWatches } from '$lib/server/watch/stored';
import type { RequestHandler } from './$types';

/** The watches that came on after a minute, `?after=`, and nobody looked at: for browser notices. */
export const GET: RequestHandler = async ({ url }) => {
  const after = Number(url.searchParams.get('after')) || 0;
  const [watches, firings] = await Promise.all([reader().then(readWatches), firingsOf()]);
  const known = new Map(watches.map((one) => [one.id, one.watch]));
  const news = firings.flatMap((firing): WatchNews[] => {
    const watch = known.get(firing.watchId);
    if (!watch || firing.silenced === 1 || firing.seenAtUs !== null || firing.onMinute <= after) return [];
    return [
      {
        id: firing.id,
        watchId: firing.watchId,
        name: watchName(watch),
        severity: watch.severity,
        sentence: sentenceOf('on', watch, { ...firing, on: firing.onMinute, off: null }),
        onMinute: firing.onMinute
      }
    ];
  });
  return json(news);
};
