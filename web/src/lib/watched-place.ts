import { isPicked, type Watched } from '@tromix/core/watch/watched';
import { NO_PICKS, scopeQuery, type Scope } from './scope';

const EVERYWHERE: Scope = {
  ...NO_PICKS,
  service: '',
  endpoint: '',
  host: '',
  release: '',
  last: '30m',
  from: undefined,
  to: undefined,
  run: undefined
};

/** The scope that something is watched in. @param window epoch milliseconds; none for the present */
export function scopeOfWatched(watched: Watched, window: { from?: number; to?: number } = {}): Scope {
  const place =
    'place' in watched
      ? watched.place
      : { service: '', endpoint: '', host: watched.of === 'measure' ? watched.host : '', release: '' };
  const attributes = watched.of === 'requests' ? watched.attributes : [];
  return { ...EVERYWHERE, ...place, attributes: [...attributes], from: window.from, to: window.to };
}

/** The view in which something that is watched is looked into, with its scope. */
export function viewOfWatched(watched: Watched, window: { from?: number; to?: number } = {}): string {
  const query = new URLSearchParams(scopeQuery(scopeOfWatched(watched, window)));
  const path = pathOf(watched);
  if (watched.of === 'vital') query.set('vital', watched.vital);
  const text = query.toString();
  return text ? `${path}?${text}` : path;
}

function pathOf(watched: Watched): string {
  switch (watched.of) {
    case 'requests':
      return isPicked(watched) ? '/requests' : watched.place.endpoint ? '/endpoint' : '/';
    case 'calls':
      return '/calls';
    case 'finding':
      return '/findings';
    case 'failures':
      return '/failures';
    case 'crashes':
      return '/crashes';
    case 'counter':
    case 'measure':
      return '/hosts';
    case 'vital':
      return '/pages';
  }
}
