import type { Program } from './program';

export interface RunSettings {
  /** The file that Node.js requires first. */
  preload: string;
  service?: string;
  release?: string;
  /** Where traces are sent. */
  to?: string;
  /** Record the parameters of statements. */
  parameters?: boolean;
  /** Say in each answer which span gives it. */
  serverTiming?: boolean;
}

/** Where a server listens by default. */
const ENDPOINT = 'http://127.0.0.1:4380';

type Environment = Readonly<Record<string, string | undefined>>;

/** Where Tromix is, as the environment says; by default on this machine. */
export const endpointFrom = (env: Environment): string => env.OTEL_EXPORTER_OTLP_ENDPOINT || ENDPOINT;

/** The token that is sent to it: its own setting, or that of the exporter’s headers; '' for none. */
export function tokenFrom(env: Environment): string {
  if (env.TROMIX_INGEST_TOKEN) return env.TROMIX_INGEST_TOKEN;
  const [, sent = ''] = /(?:^|,)\s*authorization=([^,]*)/i.exec(env.OTEL_EXPORTER_OTLP_HEADERS ?? '') ?? [];
  return decodeURIComponent(sent).replace(/^Bearer /i, '');
}

/**
 * What is added to the environment of a program, so that it sends its traces: the OpenTelemetry environment (specification, “Environment
 * Variable Specification”) and, for Node.js, what it loads first. What is set already stays, unless an option says otherwise.
 * @param env the environment as it is
 */
export function runEnvironment(
  env: Environment,
  program: Program,
  { preload, service, release, to, parameters, serverTiming }: RunSettings
): Record<string, string> {
  const set: Record<string, string> = {};
  const unlessSet = (name: string, value: string): void => {
    if (!env[name] && value !== '') set[name] = value;
  };
  if (to === undefined) unlessSet('OTEL_EXPORTER_OTLP_ENDPOINT', ENDPOINT);
  else set.OTEL_EXPORTER_OTLP_ENDPOINT = to;
  unlessSet('OTEL_EXPORTER_OTLP_PROTOCOL', 'http/protobuf');
  // Metrics and logs of SDKs that send them by themselves go nowhere: nobody asked for them.
  unlessSet('OTEL_METRICS_EXPORTER', 'none');
  unlessSet('OTEL_LOGS_EXPORTER', 'none');
  if (service === undefined) unlessSet('OTEL_SERVICE_NAME', bareName(program.name));
  else set.OTEL_SERVICE_NAME = service;
  set.OTEL_RESOURCE_ATTRIBUTES = resourceAttributes(env.OTEL_RESOURCE_ATTRIBUTES ?? '', program, release);
  if (env.TROMIX_INGEST_TOKEN)
    unlessSet(
      'OTEL_EXPORTER_OTLP_HEADERS',
      `authorization=${encodeURIComponent(`Bearer ${env.TROMIX_INGEST_TOKEN}`)}`
    );
  if (parameters) set.TROMIX_RUN_PARAMETERS = '1';
  if (serverTiming) set.TROMIX_RUN_SERVER_TIMING = '1';
  // Required, not imported: a program that is CommonJS stays so, down to the stacks of its errors. The inspector says where it listens on the standard error, which is the program’s own.
  set.NODE_OPTIONS = [
    env.NODE_OPTIONS,
    `--require "${preload.replaceAll('\\', '\\\\')}"`,
    '--inspect-publish-uid=http'
  ]
    .filter(Boolean)
    .join(' ');
  return set;
}

/** A name without the scope of its package. */
const bareName = (name: string): string => name.slice(name.lastIndexOf('/') + 1);

/** Those that are set already, and what the program’s folder says beside them. */
function resourceAttributes(
  given: string,
  { version, revision, branch, repository }: Program,
  release?: string
): string {
  const attributes = new Map(
    given
      .split(',')
      .filter(Boolean)
      .map((pair): [string, string] => [pair.split('=', 1)[0].trim(), pair.slice(pair.indexOf('=') + 1)])
  );
  const add = (name: string, value: string): void => {
    if (value !== '' && !attributes.has(name)) attributes.set(name, encodeURIComponent(value));
  };
  if (release !== undefined) attributes.set('service.version', encodeURIComponent(release));
  add('service.version', [version, revision].filter(Boolean).join('+'));
  add('vcs.ref.head.revision', revision);
  add('vcs.ref.head.name', branch);
  add('vcs.repository.url.full', repository);
  return [...attributes].map(([name, value]) => `${name}=${value}`).join(',');
}
