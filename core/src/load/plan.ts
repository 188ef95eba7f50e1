import * as v from 'valibot';
import { wrongPart } from '../text/wrong-part';

/** Most of each that one run may have: a plan says what a person wants to learn, not how to bring a machine down. */
export const LIMITS = {
  steps: 200,
  users: 2000,
  /** Arrivals per second. */
  rate: 20_000,
  loops: 1_000_000,
  seconds: 6 * 3600,
  bodyBytes: 16 * 1024 * 1024,
  /** Sent at once by one step. */
  together: 100,
  /** Kept of one run; it ends when it has so many. */
  samples: 2_000_000
} as const;

/** Set by the driver for every request; nobody else may. */
const DRIVER_HEADERS = new Set([
  'traceparent',
  'tracestate',
  'content-length',
  'transfer-encoding',
  'connection',
  'keep-alive',
  'upgrade',
  'expect'
]);

const between = (least: number, most: number) =>
  v.pipe(
    v.number(),
    v.finite(),
    v.minValue(least, `expected at least ${least}`),
    v.maxValue(most, `expected at most ${most}`)
  );
const integerBetween = (least: number, most: number) =>
  v.pipe(between(least, most), v.integer('expected an integer'));

/** What a token of HTTP may consist of: RFC 9110, 5.6.2. */
const TOKEN = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;
/** What a field value may hold: visible characters, spaces and tabs (RFC 9110, 5.5). */
const FIELD_VALUE = /^[\t\x20-\x7e\x80-\xff]*$/;

const Header = v.tuple([
  v.pipe(
    v.string(),
    v.regex(TOKEN, 'expected the name of a header, such as accept'),
    v.check(
      (name) => !DRIVER_HEADERS.has(name.toLowerCase()),
      ({ input }) => `${input} is set by the driver itself`
    )
  ),
  v.pipe(v.string(), v.regex(FIELD_VALUE, 'expected a header value on one line'))
]);

/** An address of HTTP with a host; credentials in it would travel in logs. */
const Address = v.pipe(
  v.string(),
  v.maxLength(8000, 'expected an address of at most 8,000 characters'),
  v.check((text) => {
    if (!URL.canParse(text)) return false;
    const { protocol, hostname } = new URL(text);
    return (protocol === 'http:' || protocol === 'https:') && hostname !== '';
  }, 'expected an address such as http://127.0.0.1:3000/board'),
  v.check((text) => {
    if (!URL.canParse(text)) return true;
    const { username, password } = new URL(text);
    return username === '' && password === '';
  }, 'expected an address without a user and password; send them as a header')
);

/** One request of a user. Numbers such as `{1..60}` in the address and the body are drawn anew each time. */
const Step = v.object({
  name: v.optional(v.pipe(v.string(), v.maxLength(200)), ''),
  method: v.optional(v.pipe(v.string(), v.regex(TOKEN, 'expected a method, such as GET')), 'GET'),
  url: Address,
  headers: v.optional(v.pipe(v.array(Header), v.maxLength(100)), () => []),
  /** '' for none. */
  body: v.optional(
    v.pipe(
      v.string(),
      v.check(
        (text) => new TextEncoder().encode(text).length <= LIMITS.bodyBytes,
        `expected a body of at most ${LIMITS.bodyBytes / 1024 / 1024} MiB`
      )
    ),
    ''
  ),
  /** Statuses that are no failure; none for every status below 400. */
  expect: v.optional(v.pipe(v.array(integerBetween(100, 599)), v.maxLength(20)), () => []),
  /** How often, against the other steps, where one is drawn each time. */
  weight: v.optional(integerBetween(1, 1000), 1),
  /** Sent so many times at once. */
  together: v.optional(integerBetween(1, LIMITS.together), 1),
  /** Parts whose secrets were masked when the run was kept: it is sent again only when they are given anew. */
  masked: v.optional(v.array(v.picklist(['url', 'headers', 'body'])), () => [])
});
export type Step = v.InferOutput<typeof Step>;

/**
 * What a load run does. A closed model has `users`, who each wait for an answer before they go on; an open one has `rate`, at which visits begin whether
 * or not earlier ones were answered.
 */
export const LoadPlan = v.pipe(
  v.object({
    name: v.optional(v.pipe(v.string(), v.maxLength(200)), ''),
    steps: v.pipe(v.array(Step), v.minLength(1, 'expected at least one step'), v.maxLength(LIMITS.steps)),
    users: v.optional(integerBetween(1, LIMITS.users), 1),
    /** Visits that begin per second; 0 for users. */
    rate: v.optional(between(0, LIMITS.rate), 0),
    /** Seconds over which users join, or the rate rises. */
    rampUpSeconds: v.optional(between(0, 3600), 0),
    /** How often each user does it all; of arrivals how many there are. 0: as often as the length allows. */
    loops: v.optional(integerBetween(0, LIMITS.loops), 1),
    /** Length instead of loops, seconds; 0 for loops. */
    seconds: v.optional(between(0, LIMITS.seconds), 0),
    /** Between two loops of a user, seconds. */
    pauseSeconds: v.optional(between(0, 3600), 0),
    /** By up to which part of it a pause is shorter or longer, drawn anew each time: people are no clocks. */
    pauseSpread: v.optional(between(0, 1), 0),
    /** All steps in order each time, or one of them drawn by its weight. */
    order: v.optional(v.picklist(['all', 'one']), 'all'),
    /** A request that takes longer has failed. */
    timeoutSeconds: v.optional(between(0.01, 600), 30),
    /** Follow redirects within the places that may be sent to. */
    followRedirects: v.optional(v.boolean(), true),
    /** The run ends after so many failures in a row; 0: never. */
    giveUpAfter: v.optional(integerBetween(0, 1_000_000), 100),
    /** Equal numbers draw equal values. */
    seed: v.optional(integerBetween(0, 0xffffffff), 1)
  }),
  v.check(
    ({ loops, seconds }) => loops > 0 || seconds > 0,
    'expected loops or a length: a run must end by itself'
  ),
  v.check(({ rate, users }) => rate === 0 || users === 1, 'expected users or a rate, not both')
);
export type LoadPlan = v.InferOutput<typeof LoadPlan>;
export type LoadPlanInput = v.InferInput<typeof LoadPlan>;

/** Whether visits begin at a rate, whatever becomes of earlier ones. */
export const isOpen = ({ rate }: Pick<LoadPlan, 'rate'>): boolean => rate > 0;

export type ReadPlan = { ok: true; plan: LoadPlan } | { ok: false; message: string };

/** Reads a plan somebody gave, and says which part of it is wrong: `steps 2, url: expected …`. */
export function readPlan(given: unknown): ReadPlan {
  const read = v.safeParse(LoadPlan, given);
  if (read.success) return { ok: true, plan: read.output };
  return { ok: false, message: wrongPart(read.issues[0]) };
}

/** The path of a step's address as it was typed, with the ranges in it. */
export function stepPath({ url }: Pick<Step, 'url'>): string {
  const { pathname } = new URL(url);
  try {
    return decodeURI(pathname);
  } catch {
    return pathname;
  }
}

/** What a step is called. */
export const stepName = (step: Pick<Step, 'name' | 'method' | 'url'>): string =>
  step.name || `${step.method} ${stepPath(step)}`;

/** What a run of a plan is called: by its own name, or by its first step. */
export const runName = ({ name, steps }: LoadPlan): string => name || stepName(steps[0]);
