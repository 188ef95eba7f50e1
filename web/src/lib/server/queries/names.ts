import type { Scope } from '$lib/scope';
import { select } from '../db/reader';

/** What the scope line offers to choose from. */
export interface Names {
  services: string[];
  endpoints: { service: string; name: string }[];
  hosts: string[];
  releases: string[];
}

export async function namesOf(scope: Scope): Promise<Names> {
  const [services, endpoints, hosts, releases] = await Promise.all([
    select<{ name: string }>('SELECT name FROM services ORDER BY name'),
    select<{ service: string; name: string }>(
      "SELECT s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id WHERE ? = '' OR s.name = ? ORDER BY s.name, e.name LIMIT 2000",
      [scope.service, scope.service]
    ),
    select<{ name: string }>('SELECT name FROM hosts ORDER BY name'),
    select<{ name: string }>('SELECT DISTINCT name FROM releases ORDER BY name')
  ]);
  return {
    services: services.map(({ name }) => name),
    endpoints,
    hosts: hosts.map(({ name }) => name),
    releases: releases.map(({ name }) => name)
  };
}

/** Numbers beside the views in the navigation. */
export interface Counts {
  profiles: number;
  threads: number;
  heaps: number;
  evidence: number;
}

export async function countsOf(): Promise<Counts> {
  const [row] = await select<Counts>(
    "SELECT count(*) AS evidence, coalesce(sum(kind = 'profile'), 0) AS profiles, coalesce(sum(kind = 'threads'), 0) AS threads, coalesce(sum(kind = 'heap'), 0) AS heaps FROM evidence"
  );
  return row;
}
