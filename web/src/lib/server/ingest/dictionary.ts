import type { InStatement } from '@libsql/client';
import { identityKey, NO_IDENTITY, type FailureIdentity } from '@tromix/core/failures/identity';
import type { FailureKind } from '@tromix/core/failures/failure-kind';
import type { Station } from '@tromix/core/failures/trace-failures';
import { DEFAULT_APDEX_T_MS } from '@tromix/core/stats/apdex';
import { runKeyOf } from '@tromix/core/load/trace-ids';
import type { Attributes, AttributeValue, Resource } from '@tromix/core/trace/span';
import { jsonRows } from '../db/bulk';
import { jsonOf, type Database } from '../db/database';

/** A name with the number the database gave it; 0 until it is learned. */
export interface Numbered {
  id: number;
}

/** A process with its names. */
export interface KnownResource extends Numbered {
  /** What it is called here: beyond the guards, a name that many share. */
  serviceName: string;
  service: Numbered;
  host: Numbered;
  release: Numbered;
}

/** Beyond these numbers new names are taken together: names that never end are ids in disguise. */
export const MAX_SERVICES = 1000;
export const MAX_HOSTS = 5000;
/** Of one service; and of all together. */
export const MAX_RELEASES = 1000;
const MAX_ALL_RELEASES = 20_000;
export const MAX_PROCESSES = 50_000;
/** Of one service; and of all together. */
export const MAX_ENDPOINTS = 1000;
const MAX_ALL_ENDPOINTS = 20_000;
/** Of one service, known by their paths alone: a client that requests random paths must not take the place of real endpoints. */
export const MAX_UNROUTED = 200;
/** Of one kind. */
export const MAX_CALL_GROUPS = 20_000;
const MAX_ORIGINS = 20_000;
const MAX_SUBJECTS = 20_000;
/** Failures of all services together, and ways they take. */
export const MAX_FAILURE_GROUPS = 10_000;
const MAX_WAYS = 5000;
export const OTHER_SERVICES = '(other services)';
export const OTHER_HOSTS = '(other hosts)';
export const OTHER_RELEASES = '(other releases)';
export const OTHER_ENDPOINTS = '(other endpoints)';
export const OTHER_CALLS = '(other calls)';
const OTHER_ORIGINS = '(other origins)';
const OTHER_SUBJECTS = '(others)';
export const OTHER_FAILURES = '(other failures)';
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

/** Stands for the name of a service where several answer. */
export const SEVERAL = '*';

/** Parts the texts of a key: no stored text holds it. */
const SEPARATOR = '\u0000';

/** How names of one kind are stored. */
interface NameTable {
  /** Inserts rows of one JSON list of lists; those that are there stay as they are. */
  insert: string;
  /** Numbers of such rows: a JSON list of [place in the list, number]. */
  select: string;
}

const numbersOf = (from: string): string =>
  `SELECT json_group_array(json_array(j.key, t.id)) FROM json_each(?) j JOIN ${from}`;

/** A table of names by some of its columns. */
const simple = (table: string, columns: readonly string[], keys: number): NameTable => ({
  insert: `INSERT OR IGNORE INTO ${table} (${columns.join(', ')}) SELECT ${columns.map((_, i) => `value->>${i}`).join(', ')} FROM json_each(?)`,
  select: numbersOf(
    `${table} t ON ${columns
      .slice(0, keys)
      .map((column, i) => `t.${column} = j.value->>${i}`)
      .join(' AND ')}`
  )
});

/** A table of names within a service, which is recognised by its name. */
const withinService = (table: string, column: string, more: string): NameTable => ({
  insert: `INSERT OR IGNORE INTO ${table} (service_id, name, ${more}) SELECT s.id, value->>1, value->>2 FROM json_each(?) JOIN services s ON s.name = value->>0`,
  select: numbersOf(
    `services s ON s.name = j.value->>0 JOIN ${table} t ON t.service_id = s.id AND t.${column} = j.value->>1`
  )
});

/** In this order: each may name what stands before it. */
const TABLES = {
  services: simple('services', ['name'], 1),
  hosts: simple('hosts', ['name'], 1),
  origins: simple('origins', ['name'], 1),
  releases: withinService('releases', 'name', 'first_us'),
  endpoints: withinService('endpoints', 'name', 'apdex_t_ms'),
  calls: simple('call_groups', ['kind', 'fingerprint', 'verb'], 2),
  subjects: simple('finding_subjects', ['rule', 'subject'], 2),
  failures: simple(
    'failure_groups',
    ['key', 'type', 'message', 'root_type', 'function', 'file', 'endpoint', 'kind'],
    1
  ),
  ways: simple('failure_ways', ['way'], 1),
  values: simple('attribute_values', ['name', 'value'], 2),
  resources: {
    insert: `INSERT OR IGNORE INTO resources (key, service_id, host_id, release_id, pid, attributes)
      SELECT value->>0, s.id, h.id, l.id, value->>4, value->>5 FROM json_each(?)
        JOIN services s ON s.name = value->>1 JOIN hosts h ON h.name = value->>2
        JOIN releases l ON l.service_id = s.id AND l.name = value->>3`,
    select: numbersOf('resources t ON t.key = j.value->>0')
  }
} satisfies Record<string, NameTable>;
type TableName = keyof typeof TABLES;
const TABLE_NAMES = Object.keys(TABLES) as TableName[];

/** The names of one kind that are known, and those that still have no number. */
class Names {
  readonly #known = new Map<string, Numbered>();
  #wanted: { ref: Numbered; row: unknown[] }[] = [];

  load(key: string, id: number): Numbered {
    const ref = { id };
    this.#known.set(key, ref);
    return ref;
  }

  get size(): number {
    return this.#known.size;
  }

  has(key: string): boolean {
    return this.#known.has(key);
  }

  get(key: string, rowOf: () => unknown[]): Numbered {
    let ref = this.#known.get(key);
    if (!ref) {
      ref = { id: 0 };
      this.#known.set(key, ref);
      this.#wanted.push({ ref, row: rowOf() });
    }
    return ref;
  }

  /** What has no number yet. It stays wanted until it has one. */
  get wanted(): readonly { ref: Numbered; row: unknown[] }[] {
    return this.#wanted;
  }

  /** Forgets what has its number by now. */
  settle(): void {
    this.#wanted = this.#wanted.filter(({ ref }) => ref.id === 0);
  }
}

/**
 * Numbers for the names that repeat in every span. The database hands them out, so that two writers of one database never give one number to two
 * names: a name met for the first time has no number until `learn` has stored it.
 */
export class Dictionary {
  readonly #names = Object.fromEntries(TABLE_NAMES.map((name) => [name, new Names()])) as Record<
    TableName,
    Names
  >;
  /** How many endpoints a service has, call groups a kind, values an attribute. */
  readonly #counts = new Map<string, number>();
  readonly #firstUs = new Map<Numbered, number>();
  /** The service that answers the calls of a group, and groups of which this is to be stored. */
  readonly #callees = new Map<Numbered, string>();
  readonly #toldCallees = new Set<Numbered>();
  readonly #processPairs = new Map<KnownResource, Numbered[]>();
  readonly #resources = new Map<string, KnownResource>();
  /** Names of services that have sent entry spans. */
  readonly #serving = new Set<string>();
  #beganToServe: Numbered[] = [];
  #updates: InStatement[] = [];
  #learning: Promise<void> = Promise.resolve();

  /** Numbers of load runs by the left half of the ids of their traces. */
  readonly #runs = new Map<string, number>();

  /** Learns of load runs that were added. */
  async learnRuns(database: Database): Promise<void> {
    const runs = await jsonOf<[string, number]>(
      database,
      'SELECT json_group_array(json_array(key, id)) FROM load_runs'
    );
    for (const [key, id] of runs) this.#runs.set(key, id);
  }

  /** Number of the load run that caused a trace; 0 for none. */
  runOf(traceId: string): number {
    return this.#runs.get(runKeyOf(traceId)) ?? 0;
  }

  static async load(database: Database): Promise<Dictionary> {
    const dictionary = new Dictionary();
    await dictionary.learnRuns(database);
    const names = dictionary.#names;
    const rows = <Row extends unknown[]>(columns: string, from: string): Promise<Row[]> =>
      jsonOf<Row>(database, `SELECT json_group_array(json_array(${columns})) FROM ${from}`);
    for (const [name] of await rows<[string]>('name', 'services WHERE serves = 1'))
      dictionary.#serving.add(name);
    for (const table of ['services', 'hosts', 'origins'] as const)
      for (const [id, name] of await rows<[number, string]>('id, name', table)) names[table].load(name, id);
    const ofService = 't JOIN services s ON s.id = t.service_id';
    for (const [id, service, name, firstUs] of await rows<[number, string, string, number]>(
      't.id, s.name, t.name, t.first_us',
      `releases ${ofService}`
    )) {
      names.releases.load(service + SEPARATOR + name, id);
      dictionary.#count(`releases ${service}`);
      dictionary.#firstUs.set(
        names.releases.get(service + SEPARATOR + name, () => []),
        firstUs
      );
    }
    for (const [id, service, name] of await rows<[number, string, string]>(
      't.id, s.name, t.name',
      `endpoints ${ofService}`
    )) {
      names.endpoints.load(service + SEPARATOR + name, id);
      dictionary.#count(`endpoints ${service}`);
    }
    for (const [id, kind, fingerprint, callee] of await rows<[number, string, string, string]>(
      'id, kind, fingerprint, callee',
      'call_groups'
    )) {
      const group = names.calls.load(kind + SEPARATOR + fingerprint, id);
      if (callee) dictionary.#callees.set(group, callee);
      dictionary.#count(`calls ${kind}`);
    }
    for (const [id, rule, subject] of await rows<[number, string, string]>(
      'id, rule, subject',
      'finding_subjects'
    ))
      names.subjects.load(rule + SEPARATOR + subject, id);
    for (const [id, key] of await rows<[number, string]>('id, key', 'failure_groups'))
      names.failures.load(key, id);
    for (const [id, way] of await rows<[number, string]>('id, way', 'failure_ways')) names.ways.load(way, id);
    for (const [id, name, value] of await rows<[number, string, string]>(
      'id, name, value',
      'attribute_values'
    )) {
      names.values.load(name + SEPARATOR + value, id);
      if (dictionary.#countOf(`values ${name}`) === 0) dictionary.#count('names');
      dictionary.#count(`values ${name}`);
    }
    for (const [id, key, service, host, release, firstUs] of await rows<
      [number, string, string, string, string, number | null]
    >(
      't.id, t.key, s.name, h.name, l.name, t.first_us',
      `resources ${ofService} JOIN hosts h ON h.id = t.host_id JOIN releases l ON l.id = t.release_id`
    )) {
      names.resources.load(key, id);
      const known = dictionary.#process(key, service, host, release, () => []);
      if (firstUs !== null) dictionary.#firstUs.set(known, firstUs);
    }
    return dictionary;
  }

  /** Stores the names that have no number yet, and asks for their numbers. @throws DatabaseError; they stay wanted. */
  learn(database: Database): Promise<void> {
    if (TABLE_NAMES.every((name) => this.#names[name].wanted.length === 0)) return Promise.resolve();
    const learned = this.#learning.catch(() => undefined).then(() => this.#learn(database));
    this.#learning = learned;
    return learned;
  }

  async #learn(database: Database): Promise<void> {
    const wanted = TABLE_NAMES.map((name) => ({ name, list: [...this.#names[name].wanted] })).filter(
      ({ list }) => list.length > 0
    );
    if (wanted.length === 0) return;
    const asked = wanted.map(({ list }) => jsonRows(list.map(({ row }) => row)));
    await database.write(wanted.map(({ name }, i) => ({ sql: TABLES[name].insert, args: [asked[i]] })));
    for (const [i, { name, list }] of wanted.entries()) {
      for (const [place, id] of await jsonOf<[number, number]>(database, TABLES[name].select, [asked[i]]))
        list[place].ref.id = id;
      const lost = list.find(({ ref }) => ref.id === 0);
      if (lost) throw new Error(`The database gave no number to ${JSON.stringify(lost.row)} in ${name}.`);
      this.#names[name].settle();
    }
  }

  /** Statements that store what else changed since the last call. */
  takeUpdates(): InStatement[] {
    const updates = this.#updates;
    this.#updates = [];
    // A group without a number yet is told of when it has one.
    const told = [...this.#toldCallees].filter(({ id }) => id !== 0);
    if (told.length > 0) {
      for (const group of told) this.#toldCallees.delete(group);
      updates.push({
        sql: `UPDATE call_groups SET callee = j.value->>1 FROM json_each(?) j WHERE call_groups.id = j.value->>0`,
        args: [JSON.stringify(told.map((group) => [group.id, this.#callees.get(group)]))]
      });
    }
    return updates;
  }

  /** Puts statements back whose transaction failed. */
  putBack(updates: InStatement[]): void {
    this.#updates.unshift(...updates);
  }

  /** Numbers of the names of a process of which no span need tell. */
  place(
    { service, host, release }: Pick<Resource, 'service' | 'host' | 'release'>,
    seenUs: number
  ): Pick<KnownResource, 'service' | 'host' | 'release'> {
    const names = this.#guardedPlace({ service, host, release }, seenUs);
    return {
      service: this.#names.services.get(names.service, () => []),
      host: this.#names.hosts.get(names.host, () => []),
      release: this.#names.releases.get(names.service + SEPARATOR + names.release, () => [])
    };
  }

  #guardedPlace(
    named: Pick<Resource, 'service' | 'host' | 'release'>,
    seenUs: number
  ): Pick<Resource, 'service' | 'host' | 'release'> {
    const service = this.#guarded('services', named.service, MAX_SERVICES, OTHER_SERVICES);
    const host = this.#guarded('hosts', named.host, MAX_HOSTS, OTHER_HOSTS);
    const release = this.#guardedWithin(
      'releases',
      service,
      named.release,
      MAX_RELEASES,
      OTHER_RELEASES,
      seenUs
    );
    return { service, host, release };
  }

  resource(resource: Resource, seenUs: number): KnownResource {
    const known = this.#resources.get(resource.key);
    if (known) return known;
    const { service, host, release } = this.#guardedPlace(resource, seenUs);
    const full = !this.#names.resources.has(resource.key) && this.#names.resources.size >= MAX_PROCESSES;
    const key = full ? JSON.stringify(['(other processes)', service, host, release]) : resource.key;
    const process = this.#process(key, service, host, release, () => [
      key,
      service,
      host,
      release,
      full ? 0 : resource.pid,
      full ? '[]' : JSON.stringify([...resource.attributes])
    ]);
    // Beyond the guard, keys without end are not remembered either.
    if (!full) this.#resources.set(resource.key, process);
    return process;
  }

  #process(
    key: string,
    serviceName: string,
    hostName: string,
    releaseName: string,
    rowOf: () => unknown[]
  ): KnownResource {
    const known = this.#resources.get(key);
    if (known) return known;
    const number = this.#names.resources.get(key, rowOf);
    const process: KnownResource = {
      get id() {
        return number.id;
      },
      serviceName,
      service: this.#names.services.get(serviceName, () => [serviceName]),
      host: this.#names.hosts.get(hostName, () => [hostName]),
      release: this.#names.releases.get(serviceName + SEPARATOR + releaseName, () => [
        serviceName,
        releaseName,
        0
      ])
    };
    this.#resources.set(key, process);
    return process;
  }

  /** Notes when a process served a request, so that its first is known, and that of its release: they come in any order. */
  served(process: KnownResource, startUs: number): void {
    const earlier = (what: Numbered, id: number, table: 'resources' | 'releases'): void => {
      const known = this.#firstUs.get(what);
      if (known !== undefined && known <= startUs) return;
      this.#firstUs.set(what, startUs);
      this.#updates.push({
        sql: `UPDATE ${table} SET first_us = ?1 WHERE id = ?2 AND (first_us IS NULL OR first_us > ?1)`,
        args: [startUs, id]
      });
    };
    earlier(process, process.id, 'resources');
    earlier(process.release, process.release.id, 'releases');
  }

  /** Notes that a service has sent an entry span. */
  serves({ serviceName, service }: KnownResource): void {
    if (this.#serving.has(serviceName)) return;
    this.#serving.add(serviceName);
    this.#beganToServe.push(service);
  }

  isServing({ serviceName }: KnownResource): boolean {
    return this.#serving.has(serviceName);
  }

  /** Services that began to serve since the last call: their root spans, taken for requests until now, are background work. */
  takeBeganToServe(): Numbered[] {
    const began = this.#beganToServe;
    this.#beganToServe = [];
    return began;
  }

  /** @param unrouted known by its path alone. */
  endpoint({ serviceName }: KnownResource, endpoint: string, unrouted = false): Numbered {
    const name = this.#guardedWithin(
      'endpoints',
      serviceName,
      endpoint,
      unrouted ? MAX_UNROUTED : MAX_ENDPOINTS,
      OTHER_ENDPOINTS,
      DEFAULT_APDEX_T_MS
    );
    return this.#names.endpoints.get(serviceName + SEPARATOR + name, () => []);
  }

  /** The number of a call group, or of the own spans of one name. */
  /** @param callee the service that answers; '' where this is not told */
  callGroup(kind: string, fingerprint: string, verb: string, callee = ''): Numbered {
    const guard = `calls ${kind}`;
    const full =
      !this.#names.calls.has(kind + SEPARATOR + fingerprint) && this.#countOf(guard) >= MAX_CALL_GROUPS;
    const name = full ? OTHER_CALLS : fingerprint;
    const group = this.#names.calls.get(kind + SEPARATOR + name, () => {
      this.#count(guard);
      return [kind, name, full ? '' : verb];
    });
    if (callee !== '' && !full) this.#noteCallee(group, callee);
    return group;
  }

  /** Notes who answers calls of a group; once it has been two, nobody is named. */
  #noteCallee(group: Numbered, callee: string): void {
    const known = this.#callees.get(group);
    if (known === callee || known === SEVERAL) return;
    this.#callees.set(group, known === undefined ? callee : SEVERAL);
    this.#toldCallees.add(group);
  }

  /** The number of an origin; 0 where none was recorded. */
  origin(name: string): Numbered {
    if (name === '') return NONE;
    const guarded = this.#guarded('origins', name, MAX_ORIGINS, OTHER_ORIGINS);
    return this.#names.origins.get(guarded, () => [guarded]);
  }

  /** The number of what a rule found. */
  findingSubject(rule: string, subject: string): Numbered {
    const { subjects } = this.#names;
    const full = !subjects.has(rule + SEPARATOR + subject) && subjects.size >= MAX_SUBJECTS;
    const name = full ? OTHER_SUBJECTS : subject;
    return subjects.get(rule + SEPARATOR + name, () => [rule, name]);
  }

  /** The number of a group of failures. Beyond the guard new ones are one. */
  failureGroup(identity: FailureIdentity, kind: FailureKind): Numbered {
    const { failures } = this.#names;
    const key = identityKey(identity);
    const full = !failures.has(key) && failures.size >= MAX_FAILURE_GROUPS;
    const known = full ? { ...NO_IDENTITY, message: OTHER_FAILURES } : identity;
    return failures.get(full ? OTHER_FAILURES : key, () => [
      full ? OTHER_FAILURES : key,
      known.type,
      known.message,
      known.rootType,
      known.function,
      known.file,
      known.endpoint,
      kind
    ]);
  }

  /** The number of a way that failures take; 0 for one beyond the guard. */
  failureWay(way: readonly Station[]): Numbered {
    const { ways } = this.#names;
    const text = JSON.stringify(way.map(({ service, label }) => [service, label]));
    return ways.has(text) || ways.size < MAX_WAYS ? ways.get(text, () => [text]) : NONE;
  }

  /** The number of whom these attributes name first; 0 for nobody. */
  person(attributes: readonly Attributes[]): Numbered {
    for (const name of PERSONS)
      for (const of of attributes) {
        const value = of.get(name);
        const [pair] = value === undefined ? [] : this.#pair(name, value);
        if (pair) return pair;
      }
    return NONE;
  }

  /** Numbers of the attribute values of an entry span and of its process. */
  pairs(attributes: Attributes, resource: Resource, process: KnownResource): Numbered[] {
    let ofProcess = this.#processPairs.get(process);
    if (!ofProcess) {
      ofProcess = [];
      for (const [name, value] of resource.attributes)
        if (!PROCESS_NOISE.test(name)) this.#addPair(name, value, ofProcess);
      this.#processPairs.set(process, ofProcess);
    }
    const pairs = [...ofProcess];
    for (const [name, value] of attributes) if (!name.startsWith('code.')) this.#addPair(name, value, pairs);
    return pairs;
  }

  #pair(name: string, value: AttributeValue): Numbered[] {
    const pairs: Numbered[] = [];
    this.#addPair(name, value, pairs);
    return pairs;
  }

  #addPair(name: string, value: AttributeValue, pairs: Numbered[]): void {
    if (value === null || typeof value === 'object' || name.length > MAX_VALUE_LENGTH) return;
    const given = String(value);
    const guard = `values ${name}`;
    const known = this.#countOf(guard);
    const { values } = this.#names;
    if (known === 0 && this.#countOf('names') >= MAX_NAMES) return;
    const full =
      given.length > MAX_VALUE_LENGTH ||
      ((known >= MAX_VALUES || values.size >= MAX_PAIRS) && !values.has(name + SEPARATOR + given));
    const text = full ? MORE_VALUES : given;
    pairs.push(
      values.get(name + SEPARATOR + text, () => {
        if (known === 0) this.#count('names');
        this.#count(guard);
        return [name, text];
      })
    );
  }

  /** A name, or what new ones are called together once there are very many. */
  #guarded(table: 'services' | 'hosts' | 'origins', name: string, most: number, others: string): string {
    const names = this.#names[table];
    const guarded = names.has(name) || names.size < most ? name : others;
    names.get(guarded, () => [guarded]);
    return guarded;
  }

  #guardedWithin(
    table: 'releases' | 'endpoints',
    service: string,
    name: string,
    most: number,
    others: string,
    more: number
  ): string {
    const names = this.#names[table];
    const guard = `${table} ${service}`;
    const all = table === 'releases' ? MAX_ALL_RELEASES : MAX_ALL_ENDPOINTS;
    const full =
      !names.has(service + SEPARATOR + name) && (this.#countOf(guard) >= most || names.size >= all);
    const guarded = full ? others : name;
    const ref = names.get(service + SEPARATOR + guarded, () => {
      this.#count(guard);
      return [service, guarded, more];
    });
    if (table === 'releases' && !this.#firstUs.has(ref)) this.#firstUs.set(ref, more);
    return guarded;
  }

  #countOf(what: string): number {
    return this.#counts.get(what) ?? 0;
  }

  #count(what: string): void {
    this.#counts.set(what, this.#countOf(what) + 1);
  }
}

const NONE: Numbered = { id: 0 };
/** Who asked, by the OpenTelemetry semantic conventions (user, session; `enduser` before them). */
const PERSONS = ['user.id', 'enduser.id', 'session.id'];
