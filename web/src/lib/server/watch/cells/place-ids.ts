import { groupBy } from '@tromix/core/group-by';
import type { Place } from '@tromix/core/watch/watched';
import { namedHost } from '$lib/scope';
import { jsonOf, type Database } from '../../db/database';

/** Numbers of what a place names; null where it names nothing. A name that nobody has any more is an empty set: nothing is of it. */
export interface PlacedIn {
  endpoints: ReadonlySet<number> | null;
  releases: ReadonlySet<number> | null;
  hosts: ReadonlySet<number> | null;
  /** Any host but those. */
  notHosts: ReadonlySet<number> | null;
}

interface Named {
  id: number;
  service: string;
  name: string;
}

export interface KnownRelease extends Named {
  /** Minute of its first request. */
  first: number;
}

/** What names of places stand for at the moment. */
export interface PlaceIds {
  of: (place: Place) => PlacedIn;
  /** Releases of a service, ascending by their first request. */
  releasesOf: (service: string) => readonly KnownRelease[];
}

const list = (database: Database, columns: string, from: string) =>
  jsonOf<(string | number)[]>(database, `SELECT json_group_array(json_array(${columns})) FROM ${from}`);

export async function readPlaceIds(database: Database): Promise<PlaceIds> {
  const [endpoints, hosts, releases] = await Promise.all([
    list(database, 'e.id, s.name, e.name', 'endpoints e JOIN services s ON s.id = e.service_id'),
    list(database, 'id, name', 'hosts'),
    list(database, 'l.id, s.name, l.name, l.first_us', 'releases l JOIN services s ON s.id = l.service_id')
  ]);
  const named = (row: (string | number)[]): Named => ({
    id: Number(row[0]),
    service: String(row[1]),
    name: String(row[2])
  });
  const known = {
    endpoints: endpoints.map(named),
    hosts: new Map(hosts.map(([id, name]) => [String(name), Number(id)])),
    releases: releases
      .map((row): KnownRelease => ({ ...named(row), first: Math.floor(Number(row[3]) / 60e6) }))
      .sort((a, b) => a.first - b.first || a.id - b.id)
  };
  const byService = groupBy(known.releases, ({ service }) => service);
  const endpointsByService = groupBy(known.endpoints, ({ service }) => service);
  return {
    of: (place) => placedIn(place, known, endpointsByService),
    releasesOf: (service) => byService.get(service) ?? []
  };
}

function placedIn(
  place: Place,
  known: { endpoints: Named[]; hosts: Map<string, number>; releases: Named[] },
  byService: Map<string, Named[]>
): PlacedIn {
  const ids = (of: readonly Named[], isOne: (one: Named) => boolean): Set<number> =>
    new Set(of.filter(isOne).map(({ id }) => id));
  const { name: host, but } = namedHost(place);
  const hostIds = host === '' ? null : new Set([known.hosts.get(host)].filter((id) => id !== undefined));
  const inService = place.service === '' ? known.endpoints : (byService.get(place.service) ?? []);
  return {
    endpoints:
      place.service === '' && place.endpoint === ''
        ? null
        : ids(inService, ({ name }) => place.endpoint === '' || name === place.endpoint),
    releases:
      place.release === ''
        ? null
        : ids(
            known.releases,
            ({ name, service }) =>
              name === place.release && (place.service === '' || service === place.service)
          ),
    hosts: but ? null : hostIds,
    notHosts: but ? hostIds : null
  };
}

/** Whether a row is of a place. */
export const isIn = (
  { endpoints, releases, hosts, notHosts }: PlacedIn,
  endpoint: number,
  host: number,
  release: number
): boolean =>
  (endpoints === null || endpoints.has(endpoint)) &&
  (hosts === null || hosts.has(host)) &&
  (notHosts === null || !notHosts.has(host)) &&
  (releases === null || releases.has(release));

/** A condition that no row of any of the places is left out by: what all of them have in common narrows what is read. */
export function narrowed(
  places: readonly PlacedIn[],
  columns: Partial<Record<'endpoints' | 'releases' | 'hosts', string>>
): { sql: string; args: string[] } {
  const parts = (['endpoints', 'releases', 'hosts'] as const).flatMap((of) => {
    const column = columns[of];
    const sets = places.map((place) => place[of]);
    if (column === undefined || sets.some((set) => set === null)) return [];
    return [{ column, ids: JSON.stringify([...new Set(sets.flatMap((set) => [...set!]))]) }];
  });
  return {
    sql: parts.map(({ column }) => ` AND ${column} IN (SELECT value FROM json_each(?))`).join(''),
    args: parts.map(({ ids }) => ids)
  };
}

/** Those of several places that a row is of: by its endpoint first, so that a thousand watches cost no more than those it may be of. */
export class ByEndpoint<T> {
  readonly #byEndpoint = new Map<number, { placed: PlacedIn; of: T }[]>();
  readonly #everywhere: { placed: PlacedIn; of: T }[] = [];

  add(placed: PlacedIn, of: T): void {
    if (placed.endpoints === null) this.#everywhere.push({ placed, of });
    else
      for (const endpoint of placed.endpoints) {
        const known = this.#byEndpoint.get(endpoint) ?? [];
        this.#byEndpoint.set(endpoint, known);
        known.push({ placed, of });
      }
  }

  *at(endpoint: number, host: number, release: number): Generator<T> {
    for (const { placed, of } of this.#byEndpoint.get(endpoint) ?? [])
      if (isIn(placed, endpoint, host, release)) yield of;
    for (const { placed, of } of this.#everywhere) if (isIn(placed, endpoint, host, release)) yield of;
  }
}
