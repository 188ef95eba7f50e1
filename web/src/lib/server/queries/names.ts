import type { Scope } from '$lib/scope';
import { select } from '../db/reader';

/** What the scope line offers to choose from. */
export interface Names {
  services: string[];
  endpoints: { service: string; name: string }[];
  hosts: string[];
  releases: string[];
  /** How many more of each there are than are listed here. */
  more: Record<'services' | 'endpoints' | 'hosts' | 'releases', number>;
}

/** Names of a kind that are listed: the palette finds more. */
const MAX_NAMES = 500;

export async function namesOf(scope: Scope): Promise<Names> {
  const [services, endpoints, hosts, releases, [counts]] = await Promise.all([
    select<{ name: string }>(`SELECT name FROM services ORDER BY name LIMIT ${MAX_NAMES}`),
    select<{ service: string; name: string }>(
      `SELECT s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id
        WHERE ? = '' OR s.name = ? ORDER BY s.name, e.name LIMIT ${MAX_NAMES}`,
      [scope.service, scope.service]
    ),
    select<{ name: string }>(`SELECT name FROM hosts ORDER BY name LIMIT ${MAX_NAMES}`),
    select<{ name: string }>(`SELECT DISTINCT name FROM releases ORDER BY name LIMIT ${MAX_NAMES}`),
    select<Names['more']>(
      `SELECT (SELECT count(*) FROM services) AS services, (SELECT count(*) FROM hosts) AS hosts,
        (SELECT count(DISTINCT name) FROM releases) AS releases,
        (SELECT count(*) FROM endpoints e JOIN services s ON s.id = e.service_id WHERE ?1 = '' OR s.name = ?1) AS endpoints`,
      [scope.service]
    )
  ]);
  return {
    services: services.map(({ name }) => name),
    endpoints,
    hosts: hosts.map(({ name }) => name),
    releases: releases.map(({ name }) => name),
    more: {
      services: counts.services - services.length,
      endpoints: counts.endpoints - endpoints.length,
      hosts: counts.hosts - hosts.length,
      releases: counts.releases - releases.length
    }
  };
}
