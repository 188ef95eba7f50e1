import type { Client, InStatement } from '@libsql/client';
import { DEFAULT_APDEX_T_MS } from '@tromix/core/stats/apdex';
import type { CallIdentity } from '@tromix/core/calls/call';
import type { Resource } from '@tromix/core/trace/span';

/** A process with the numbers of its names. */
export interface KnownResource {
  id: number;
  serviceId: number;
  hostId: number;
  releaseId: number;
}

/** A numbering of names that only the one writer extends: new rows are queued until the next transaction. */
class Names {
  readonly #ids = new Map<string, number>();
  #next = 1;

  load(key: string, id: number): void {
    this.#ids.set(key, id);
    this.#next = Math.max(this.#next, id + 1);
  }

  get(key: string, add: (id: number) => void): number {
    const known = this.#ids.get(key);
    if (known !== undefined) return known;
    const id = this.#next++;
    this.#ids.set(key, id);
    add(id);
    return id;
  }
}

/** Numbers for the names that repeat in every span. */
export class Dictionary {
  readonly #services = new Names();
  readonly #hosts = new Names();
  readonly #releases = new Names();
  readonly #endpoints = new Names();
  readonly #calls = new Names();
  readonly #resources = new Map<string, KnownResource>();
  #nextResource = 1;
  readonly #apdexTMs = new Map<number, number>();
  #queued: InStatement[] = [];

  static async load(client: Client): Promise<Dictionary> {
    const dictionary = new Dictionary();
    const rows = async (sql: string): Promise<Record<string, unknown>[]> =>
      (await client.execute(sql)).rows as unknown as Record<string, unknown>[];
    for (const row of await rows('SELECT id, name FROM services'))
      dictionary.#services.load(String(row.name), Number(row.id));
    for (const row of await rows('SELECT id, name FROM hosts'))
      dictionary.#hosts.load(String(row.name), Number(row.id));
    for (const row of await rows('SELECT id, service_id, name FROM releases')) {
      dictionary.#releases.load(`${String(row.service_id)} ${String(row.name)}`, Number(row.id));
    }
    for (const row of await rows('SELECT id, service_id, name, apdex_t_ms FROM endpoints')) {
      dictionary.#endpoints.load(`${String(row.service_id)} ${String(row.name)}`, Number(row.id));
      dictionary.#apdexTMs.set(Number(row.id), Number(row.apdex_t_ms));
    }
    for (const row of await rows('SELECT id, kind, fingerprint FROM call_groups')) {
      dictionary.#calls.load(`${String(row.kind)} ${String(row.fingerprint)}`, Number(row.id));
    }
    for (const row of await rows('SELECT id, key, service_id, host_id, release_id FROM resources')) {
      const id = Number(row.id);
      dictionary.#nextResource = Math.max(dictionary.#nextResource, id + 1);
      dictionary.#resources.set(String(row.key), {
        id,
        serviceId: Number(row.service_id),
        hostId: Number(row.host_id),
        releaseId: Number(row.release_id)
      });
    }
    return dictionary;
  }

  /** Statements that store what was numbered since the last call. To be run before rows that use the numbers. */
  takeQueued(): InStatement[] {
    const queued = this.#queued;
    this.#queued = [];
    return queued;
  }

  /** Puts statements back whose transaction failed. */
  requeue(statements: InStatement[]): void {
    this.#queued.unshift(...statements);
  }

  resource(resource: Resource, seenUs: number): KnownResource {
    const known = this.#resources.get(resource.key);
    if (known) return known;
    const serviceId = this.#named(this.#services, 'services', resource.service);
    const hostId = this.#named(this.#hosts, 'hosts', resource.host);
    const releaseId = this.#releases.get(`${serviceId} ${resource.release}`, (id) => {
      this.#queue(
        'INSERT OR IGNORE INTO releases (id, service_id, name, first_us) VALUES (?, ?, ?, ?)',
        id,
        serviceId,
        resource.release,
        seenUs
      );
    });
    const id = this.#nextResource++;
    this.#queue(
      'INSERT OR IGNORE INTO resources (id, key, service_id, host_id, release_id, pid, attributes) VALUES (?, ?, ?, ?, ?, ?, ?)',
      id,
      resource.key,
      serviceId,
      hostId,
      releaseId,
      resource.pid,
      JSON.stringify([...resource.attributes])
    );
    const added = { id, serviceId, hostId, releaseId };
    this.#resources.set(resource.key, added);
    return added;
  }

  endpoint(serviceId: number, name: string): number {
    return this.#endpoints.get(`${serviceId} ${name}`, (id) => {
      this.#apdexTMs.set(id, DEFAULT_APDEX_T_MS);
      this.#queue(
        'INSERT OR IGNORE INTO endpoints (id, service_id, name, apdex_t_ms) VALUES (?, ?, ?, ?)',
        id,
        serviceId,
        name,
        DEFAULT_APDEX_T_MS
      );
    });
  }

  apdexTMs(endpointId: number): number {
    return this.#apdexTMs.get(endpointId) ?? DEFAULT_APDEX_T_MS;
  }

  callGroup(call: CallIdentity): number {
    return this.#calls.get(`${call.kind} ${call.fingerprint}`, (id) => {
      this.#queue(
        'INSERT OR IGNORE INTO call_groups (id, kind, fingerprint, verb) VALUES (?, ?, ?, ?)',
        id,
        call.kind,
        call.fingerprint,
        call.verb
      );
    });
  }

  #named(names: Names, table: 'services' | 'hosts', name: string): number {
    return names.get(name, (id) =>
      this.#queue(`INSERT OR IGNORE INTO ${table} (id, name) VALUES (?, ?)`, id, name)
    );
  }

  #queue(sql: string, ...args: (string | number)[]): void {
    this.#queued.push({ sql, args });
  }
}
