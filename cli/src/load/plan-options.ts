import { readFileSync } from 'node:fs';
import { InvalidArgumentError } from 'commander';
import { readCurl } from '@tromix/core/load/curl';
import { readHar } from '@tromix/core/load/har';
import { readPlan, type LoadPlanInput, type ReadPlan } from '@tromix/core/load/plan';

/** The options that make a plan. */
export interface PlanOptions {
  users?: number;
  rate?: number;
  rampUp?: number;
  loops?: number;
  length?: number;
  pause?: number;
  method?: string;
  header: [string, string][];
  body?: string;
  expect: number[];
  timeout?: number;
  giveUp?: number;
  follow: boolean;
  plan?: string;
  curl?: string;
  har?: string;
  name?: string;
}

const FACTORS: Record<string, number> = { ms: 0.001, s: 1, m: 60, min: 60, h: 3600 };

/** `10s`, `500ms`, `2m`, or seconds. @returns seconds */
export function duration(text: string): number {
  const [, value, unit = 's'] = /^(\d+(?:\.\d+)?)(ms|s|min|m|h)?$/.exec(text) ?? [];
  if (value === undefined) throw new InvalidArgumentError('Expected a length such as 10s, 500ms or 2m.');
  return Number(value) * FACTORS[unit];
}

export function number(text: string): number {
  const value = Number(text);
  if (text.trim() === '' || !Number.isFinite(value)) throw new InvalidArgumentError('Expected a number.');
  return value;
}

/** Collects `name: value`. */
export function header(text: string, before: [string, string][]): [string, string][] {
  const at = text.indexOf(':');
  if (at < 1) throw new InvalidArgumentError('Expected a header such as "accept: application/json".');
  return [...before, [text.slice(0, at).trim(), text.slice(at + 1).trim()]];
}

/** Collects statuses. */
export const statuses = (text: string, before: number[]): number[] => [
  ...before,
  ...text.split(',').map((part) => number(part.trim()))
];

const textOf = (file: string): string => readFileSync(file === '-' ? 0 : file, 'utf8');

/** The plan of a command line: what a file gives, and what options change of it. @throws NodeJS.ErrnoException for a file that cannot be read */
export function planFrom(url: string | undefined, options: PlanOptions): ReadPlan & { notes?: string[] } {
  const { users, rate, rampUp, loops, length, pause, timeout, giveUp, name, follow } = options;
  const base = baseFrom(url, options);
  if ('message' in base) return { ok: false, message: base.message };
  const given: Partial<LoadPlanInput> = {
    ...(users === undefined ? {} : { users, rate: 0 }),
    ...(rate === undefined ? {} : { rate, users: 1 }),
    ...(rampUp === undefined ? {} : { rampUpSeconds: rampUp }),
    ...(loops === undefined ? {} : { loops, seconds: 0 }),
    ...(length === undefined ? {} : { seconds: length, loops: loops ?? 0 }),
    ...(pause === undefined ? {} : { pauseSeconds: pause }),
    ...(timeout === undefined ? {} : { timeoutSeconds: timeout }),
    ...(giveUp === undefined ? {} : { giveUpAfter: giveUp }),
    ...(name === undefined ? {} : { name }),
    ...(follow ? {} : { followRedirects: false })
  };
  const read = readPlan({ ...base.plan, ...given });
  return read.ok ? { ...read, notes: base.notes } : read;
}

/** Where the steps come from: a plan, a line of curl, an HTTP Archive, or the address with its options. */
function baseFrom(
  url: string | undefined,
  { plan, curl, har, method, header: headers, body, expect }: PlanOptions
): { plan: object; notes: string[] } | { message: string } {
  const sources = [url, plan, curl, har].filter((one) => one !== undefined);
  if (sources.length !== 1) return { message: 'Expected one of an address, --plan, --curl and --har.' };
  if (plan !== undefined) {
    try {
      return { plan: JSON.parse(textOf(plan)) as object, notes: [] };
    } catch (cause) {
      if (!(cause instanceof SyntaxError)) throw cause;
      return { message: `Expected a plan as JSON in ${plan}: ${cause.message}.` };
    }
  }
  if (curl !== undefined || har !== undefined) {
    const read = curl === undefined ? readHar(textOf(har!)) : readCurl(curl === '-' ? textOf('-') : curl);
    return read.ok ? { plan: { steps: read.steps }, notes: read.notes } : read;
  }
  const address = /^[a-z][a-z0-9+.-]*:\/\//i.test(url!) ? url! : `http://${url}`;
  const content = body?.startsWith('@') ? textOf(body.slice(1)) : body;
  const step = {
    url: address,
    method: (method ?? (content === undefined ? 'GET' : 'POST')).toUpperCase(),
    headers,
    ...(content === undefined ? {} : { body: content }),
    expect
  };
  return { plan: { steps: [step] }, notes: [] };
}
