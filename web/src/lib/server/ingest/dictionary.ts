import type { InStatement } from '@libsql/client';
import { DEFAULT_APDEX_T_MS } from '@tromix/core/stats/apdex';
import type { Attributes, AttributeValue, Resource } from '@tromix/core/trace/span';
import { objectsOf, type Database } from '../db/database';

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

  get size(): number {
    return this.#ids.size;
  }

  has(key: string): boolean {
    return this.#ids.has(key);
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

/** Endpoints of one service, and call groups of one kind, beyond which new ones are taken together: names that never end are ids in disguise. */
export const MAX_ENDPOINTS = 1000;
export const MAX_CALL_GROUPS = 20_000;
export const OTHER_ENDPOINTS = '(other endpoints)';
export const OTHER_CALLS = '(other calls)';
/** Values of one attribute, names of attributes, and length of a value, that can be searched by number. */
export const MAX_VALUES = 10_000;
const MAX_PAIRS = 200_000;
const MAX_NAMES = 500;
const MAX_VALUE_LENGTH = 200;
/** Stands for every value beyond those: requests that have it are looked up in their spans. */
export const MORE_VALUES = '(more values)';
/** Attributes of processes that are of no use for telling requests apart. */
const PROCESS_NOISE =
  /^(?:telemetry\.|process\.(?:command|executable|pid|owner|runtime\.description)|service\.|host\.(?:name|id)$)/;

/** Numbers for the names that repeat in every span. */
export class Dictionary {
  readonly #services = new Names();
  readonly #hosts = new Names();
  readonly #releases = new Names();
  readonly #endpoints = new Names();
  readonly #calls = new Names();
  readonly #origins = new Names();
  readonly #subjects = new Names();
  readonly #values = new Names();
  /** How many endpoints a service has, call groups a kind, values an attribute. */
  readonly #counts = new Map<string, number>();
  readonly #firstUs = new Map<number, number>();
  readonly #releaseFirstUs = new Map<number, number>();
  readonly #processPairs = new Map<number, number[]>();
  readonly #resources = new Map<string, KnownResource>();
  #nextResource = 1;
  #queued: InStatement[] = [];

  static async load(database: Database): Promise<Dictionary> {
    const dictionary = new Dictionary();
    const rows = (sql: string): Promise<Record<string, unknown>[]> => objectsOf(database, sql);
    for (const { id, name } of await rows('SELECT id, name FROM services'))
      dictionary.#services.load(String(name), Number(id));
    for (const { id, name } of await rows('SELECT id, name FROM hosts'))
      dictionary.#hosts.load(String(name), Number(id));
    for (const { id, name } of await rows('SELECT id, name FROM origins'))
      dictionary.#origins.load(String(name), Number(id));
    for (const row of await rows('SELECT id, service_id, name, first_us FROM releases')) {
      dictionary.#releases.load(`${String(row.service_id)} ${String(row.name)}`, Number(row.id));
      dictionary.#releaseFirstUs.set(Number(row.id), Number(row.first_us));
    }
    for (const { id, rule, subject } of await rows('SELECT id, rule, subject FROM finding_subjects'))
      dictionary.#subjects.load(`${String(rule)} ${String(subject)}`, Number(id));
    for (const row of await rows('SELECT id, service_id, name FROM endpoints')) {
      dictionary.#endpoints.load(`${String(row.service_id)} ${String(row.name)}`, Number(row.id));
      dictionary.#count(`endpoints ${String(row.service_id)}`);
    }
    for (const { id, kind, fingerprint } of await rows('SELECT id, kind, fingerprint FROM call_groups')) {
      dictionary.#calls.load(`${String(kind)} ${String(fingerprint)}`, Number(id));
      dictionary.#count(`calls ${String(kind)}`);
    }
    for (const { id, name, value } of await rows('SELECT id, name, value FROM attribute_values')) {
      dictionary.#values.load(`${String(name)} ${String(value)}`, Number(id));
      dictionary.#count(`values ${String(name)}`);
    }
    for (const row of await rows(
      'SELECT id, key, service_id, host_id, release_id, first_us FROM resources'
    )) {
      const id = Number(row.id);
      dictionary.#nextResource = Math.max(dictionary.#nextResource, id + 1);
      dictionary.#resources.set(String(row.key), {
        id,
        serviceId: Number(row.service_id),
        hostId: Number(row.host_id),
        releaseId: Number(row.release_id)
      });
      if (row.first_us !== null) dictionary.#firstUs.set(id, Number(row.first_us));
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
      this.#releaseFirstUs.set(id, seenUs);
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

  /** Notes when a process served a request, so that its first is known, and that of its release: they come in any order. */
  served({ id, releaseId }: KnownResource, startUs: number): void {
    const earlier = (first: Map<number, number>, table: 'resources' | 'releases', number: number): void => {
      const known = first.get(number);
      if (known !== undefined && known <= startUs) return;
      first.set(number, startUs);
      this.#queue(`UPDATE ${table} SET first_us = ? WHERE id = ?`, startUs, number);
    };
    earlier(this.#firstUs, 'resources', id);
    earlier(this.#releaseFirstUs, 'releases', releaseId);
  }

  endpoint(serviceId: number, endpoint: string): number {
    const guard = `endpoints ${serviceId}`;
    const full = !this.#endpoints.has(`${serviceId} ${endpoint}`) && this.#countOf(guard) >= MAX_ENDPOINTS;
    const name = full ? OTHER_ENDPOINTS : endpoint;
    return this.#endpoints.get(`${serviceId} ${name}`, (id) => {
      this.#count(guard);
      this.#queue(
        'INSERT OR IGNORE INTO endpoints (id, service_id, name, apdex_t_ms) VALUES (?, ?, ?, ?)',
        id,
        serviceId,
        name,
        DEFAULT_APDEX_T_MS
      );
    });
  }

  /** The number of a call group, or of the own spans of one name. */
  callGroup(kind: string, fingerprint: string, verb: string): number {
    const guard = `calls ${kind}`;
    const full = !this.#calls.has(`${kind} ${fingerprint}`) && this.#countOf(guard) >= MAX_CALL_GROUPS;
    const name = full ? OTHER_CALLS : fingerprint;
    return this.#calls.get(`${kind} ${name}`, (id) => {
      this.#count(guard);
      this.#queue(
        'INSERT OR IGNORE INTO call_groups (id, kind, fingerprint, verb) VALUES (?, ?, ?, ?)',
        id,
        kind,
        name,
        full ? '' : verb
      );
    });
  }

  /** The number of an origin; 0 where none was recorded. */
  origin(name: string): number {
    if (name === '') return 0;
    return this.#origins.get(name, (id) =>
      this.#queue('INSERT OR IGNORE INTO origins (id, name) VALUES (?, ?)', id, name)
    );
  }

  /** The number of what a rule found. */
  findingSubject(rule: string, subject: string): number {
    return this.#subjects.get(`${rule} ${subject}`, (id) =>
      this.#queue(
        'INSERT OR IGNORE INTO finding_subjects (id, rule, subject) VALUES (?, ?, ?)',
        id,
        rule,
        subject
      )
    );
  }

  /** Numbers of the attribute values of an entry span and of its process. */
  pairs(attributes: Attributes, resource: Resource, resourceId: number): number[] {
    let process = this.#processPairs.get(resourceId);
    if (!process) {
      process = [];
      for (const [name, value] of resource.attributes)
        if (!PROCESS_NOISE.test(name)) this.#addPair(name, value, process);
      this.#processPairs.set(resourceId, process);
    }
    const pairs = [...process];
    for (const [name, value] of attributes) if (!name.startsWith('code.')) this.#addPair(name, value, pairs);
    return pairs;
  }

  #addPair(name: string, value: AttributeValue, pairs: number[]): void {
    if (value === null || typeof value === 'object') return;
    const given = String(value);
    const guard = `values ${name}`;
    const known = this.#countOf(guard);
    if (known === 0 && this.#countOf('names') >= MAX_NAMES) return;
    const full =
      given.length > MAX_VALUE_LENGTH ||
      ((known >= MAX_VALUES || this.#values.size >= MAX_PAIRS) && !this.#values.has(`${name} ${given}`));
    const text = full ? MORE_VALUES : given;
    pairs.push(
      this.#values.get(`${name} ${text}`, (id) => {
        if (known === 0) this.#count('names');
        this.#count(guard);
        this.#queue(
          'INSERT OR IGNORE INTO attribute_values (id, name, value) VALUES (?, ?, ?)',
          id,
          name,
          text
        );
      })
    );
  }

  #countOf(what: string): number {
    return this.#counts.get(what) ?? 0;
  }

  #count(what: string): void {
    this.#counts.set(what, this.#countOf(what) + 1);
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
