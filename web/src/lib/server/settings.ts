import path from 'node:path';
import { closest } from 'fastest-levenshtein';
import * as v from 'valibot';
import type { Retention } from './ingest/sweeper';
import { readPlaces, type Place } from './record/addresses';
import { readTargets, type Target } from '@tromix/load/targets';
import { StartError } from './start-error';

const integerText = v.pipe(v.string(), v.regex(/^\d{1,15}$/, 'expected an integer'), v.transform(Number));

/** A token somebody could guess is worse than none: it looks like protection. */
const MIN_TOKEN = 16;
const token = v.optional(
  v.pipe(
    v.string(),
    v.check(
      (text) => text === '' || text.length >= MIN_TOKEN,
      `expected at least ${MIN_TOKEN} characters; “openssl rand -hex 16” makes some`
    )
  )
);

const MIB = 1024 * 1024;

/** Everything the environment may set. Names here are the names in error messages. */
const Environment = v.object({
  TROMIX_DATA: v.optional(v.string(), 'data'),
  TROMIX_DB: v.optional(v.string()),
  TROMIX_TOKEN: token,
  TROMIX_INGEST_TOKEN: token,
  TROMIX_COLLECT_KEY: v.optional(v.pipe(v.string(), v.maxLength(200)), ''),
  TROMIX_COLLECT_ORIGINS: v.optional(v.string(), ''),
  TROMIX_COLLECT_PER_MINUTE: v.optional(integerText, '6000'),
  TROMIX_TRUST_PROXY: v.optional(v.picklist(['', '0', '1'], 'expected 0 or 1'), ''),
  TROMIX_KEEP_LITERALS: v.optional(v.string(), ''),
  TROMIX_MAX_BATCH_BYTES: v.optional(integerText, String(16 * MIB)),
  TROMIX_MAX_INFLATED_BYTES: v.optional(integerText, String(64 * MIB)),
  TROMIX_MAX_UPLOAD_BYTES: v.optional(integerText, String(8192 * MIB)),
  TROMIX_MAX_HEAP_BYTES: v.optional(integerText, String(16_384 * MIB)),
  TROMIX_MAX_PROFILE_BYTES: v.optional(integerText, String(512 * MIB)),
  TROMIX_MAX_TRACE_SPANS: v.optional(integerText, '100000'),
  TROMIX_MAX_UNDER_WAY_BYTES: v.optional(integerText, String(256 * MIB)),
  TROMIX_MAX_PAGES: v.optional(integerText, '200'),
  TROMIX_KEEP_DAYS: v.optional(integerText, '30'),
  TROMIX_MAX_DB_BYTES: v.optional(integerText, String(20 * 1024 * MIB)),
  TROMIX_GRACE_MINUTES: v.optional(integerText, '60'),
  TROMIX_KEEP_LOG_DAYS: v.optional(integerText, '3'),
  TROMIX_KEEP_COUNTER_DAYS: v.optional(integerText, '7'),
  TROMIX_INSPECT: v.optional(v.string(), '127.0.0.1:9222, 127.0.0.1:9229-9239'),
  TROMIX_LOAD_TARGETS: v.optional(v.string(), ''),
  TROMIX_HOOK_TARGETS: v.optional(v.string(), ''),
  TROMIX_SOURCES: v.optional(v.string(), ''),
  TROMIX_SOURCE_LINK: v.optional(v.pipe(v.string(), v.maxLength(500)), ''),
  TROMIX_WATCH: v.optional(v.string()),
  TROMIX_MCP: v.optional(v.picklist(['', '0', '1'], 'expected 0 or 1'), ''),
  TROMIX_OBSERVE: v.optional(v.picklist(['', '0', '1'], 'expected 0 or 1'), ''),
  TROMIX_OTLP_PROFILES: v.optional(v.picklist(['', '0', '1'], 'expected 0 or 1'), ''),
  TROMIX_SETTLE_MS: v.optional(integerText, '1500'),
  TROMIX_DEMO: v.optional(v.string()),
  TROMIX_HOSTS: v.optional(v.string(), '')
});

/** From whom page loads are taken. */
export interface CollectSettings {
  /** What pages send with each load; '' where none is asked for. */
  key: string;
  /** Origins of pages besides those on the loopback: `https://quay.example`. */
  origins: string[];
  /** Beacons taken a minute, of all pages together. */
  perMinute: number;
}

export interface Settings {
  dataFolder: string;
  databaseUrl: string;
  migrationsFolder: string;
  /** Access token; '' where none is asked for. */
  token: string;
  ingestToken: string;
  collect: CollectSettings;
  keepLiteralsOf: string[];
  maxBatchBytes: number;
  maxInflatedBytes: number;
  maxUploadBytes: number;
  maxProfileBytes: number;
  /** Bytes of bodies held in memory at once, over all connections. */
  maxUnderWayBytes: number;
  /** Browsers that receive live updates at once. */
  maxPages: number;
  /** Spans of one trace that are accounted for. */
  maxTraceSpans: number;
  /** Of a heap dump, inflated. */
  maxHeapBytes: number;
  /** How long a trace rests before it is booked. */
  settleMs: number;
  retention: Retention;
  /** Folders whose source texts may be shown. */
  sourceFolders: string[];
  /** Address of a line at a revision, as a template: see core/text/source-link.ts; '' for none. */
  sourceLink: string;
  /** Folder whose files are taken in as they come; '' for none. */
  watchedFolder: string;
  /** Where inspectors are looked for; recordings may go to these and to the loopback. */
  inspectPlaces: Place[];
  /** Where load runs may send to besides the loopback. */
  loadTargets: Target[];
  /** Where notices may be sent to besides the loopback. */
  hookTargets: Target[];
  /** Whether assistants may ask by the Model Context Protocol. */
  answersAssistants: boolean;
  /** Whether functions of running processes may be looked at from inside. */
  mayObserve: boolean;
  /** Whether OTLP profiles are received, whose schema is under development. */
  takesProfiles: boolean;
  /** Folder of recordings to load at start; '' for none. */
  demoFolder: string;
  /** Names the server may be asked by, beside the loopback's. */
  hosts: string[];
}

/** @throws StartError naming the setting that is wrong. */
export function settingsFrom(env: NodeJS.ProcessEnv, root: string): Settings {
  const parsed = v.safeParse(Environment, env);
  if (!parsed.success) {
    const [issue] = parsed.issues;
    throw new StartError(`Invalid ${String(issue.path?.[0]?.key)}: ${issue.message}.`);
  }
  refuseUnknown(env);
  const e = parsed.output;
  const list = (text: string): string[] =>
    text
      .split(',')
      .map((item) => item.trim())
      .filter(Boolean);
  const dataFolder = path.resolve(root, e.TROMIX_DATA);
  return {
    dataFolder,
    databaseUrl: e.TROMIX_DB ?? `file:${path.join(dataFolder, 'tromix.sqlite')}`,
    migrationsFolder: path.resolve(root, 'drizzle'),
    token: e.TROMIX_TOKEN ?? '',
    ingestToken: e.TROMIX_INGEST_TOKEN ?? '',
    collect: {
      key: e.TROMIX_COLLECT_KEY,
      origins: list(e.TROMIX_COLLECT_ORIGINS).map(originFrom),
      perMinute: e.TROMIX_COLLECT_PER_MINUTE
    },
    keepLiteralsOf: list(e.TROMIX_KEEP_LITERALS),
    maxBatchBytes: e.TROMIX_MAX_BATCH_BYTES,
    maxInflatedBytes: e.TROMIX_MAX_INFLATED_BYTES,
    maxUploadBytes: e.TROMIX_MAX_UPLOAD_BYTES,
    maxProfileBytes: e.TROMIX_MAX_PROFILE_BYTES,
    maxUnderWayBytes: e.TROMIX_MAX_UNDER_WAY_BYTES,
    maxPages: e.TROMIX_MAX_PAGES,
    maxTraceSpans: e.TROMIX_MAX_TRACE_SPANS,
    maxHeapBytes: e.TROMIX_MAX_HEAP_BYTES,
    settleMs: e.TROMIX_SETTLE_MS,
    retention: {
      days: e.TROMIX_KEEP_DAYS,
      maxBytes: e.TROMIX_MAX_DB_BYTES,
      graceMinutes: e.TROMIX_GRACE_MINUTES,
      logDays: e.TROMIX_KEEP_LOG_DAYS,
      counterDays: e.TROMIX_KEEP_COUNTER_DAYS
    },
    sourceFolders: list(e.TROMIX_SOURCES).map((folder) => path.resolve(root, folder)),
    sourceLink: e.TROMIX_SOURCE_LINK,
    watchedFolder: e.TROMIX_WATCH ? path.resolve(root, e.TROMIX_WATCH) : '',
    inspectPlaces: readPlaces(e.TROMIX_INSPECT),
    loadTargets: targetsFrom('TROMIX_LOAD_TARGETS', e.TROMIX_LOAD_TARGETS),
    hookTargets: targetsFrom('TROMIX_HOOK_TARGETS', e.TROMIX_HOOK_TARGETS),
    answersAssistants: e.TROMIX_MCP === '1',
    mayObserve: e.TROMIX_OBSERVE === '1',
    takesProfiles: e.TROMIX_OTLP_PROFILES === '1',
    demoFolder: e.TROMIX_DEMO ? path.resolve(root, e.TROMIX_DEMO) : '',
    hosts: list(e.TROMIX_HOSTS)
  };
}

/** An origin as browsers send it. */
function originFrom(text: string): string {
  const { origin } = URL.canParse(text) ? new URL(text) : { origin: 'null' };
  if (origin === 'null' || text.replace(/\/$/, '').toLowerCase() !== origin)
    throw new StartError(
      `Invalid TROMIX_COLLECT_ORIGINS: expected origins like https://quay.example, separated by commas, but found ${text}.`
    );
  return origin;
}

function targetsFrom(setting: string, text: string): Target[] {
  const targets = readTargets(text);
  if ('wrong' in targets) throw new StartError(`Invalid ${setting}: ${targets.wrong}.`);
  return targets;
}

/** A setting that is misspelt would be ignored: nobody would learn of it. Those of `tromix run` are about the program it runs. */
function refuseUnknown(env: NodeJS.ProcessEnv): void {
  const names = Object.keys(Environment.entries);
  const unknown = Object.keys(env).find((name) => /^TROMIX_(?!RUN_)/.test(name) && !names.includes(name));
  if (unknown)
    throw new StartError(
      `Invalid ${unknown}: there is no such setting. Did you mean ${closest(unknown, names)}?`
    );
}

let known: Settings | undefined;

/** The settings of this process, read once. */
export function settings(): Settings {
  return (known ??= settingsFrom(process.env, process.cwd()));
}
