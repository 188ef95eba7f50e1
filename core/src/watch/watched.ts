import * as v from 'valibot';
import { COLUMNS } from '../counters/strips';
import { VITALS } from '../pages/vitals';

const name = v.pipe(v.string('expected a text'), v.maxLength(500, 'expected at most 500 characters'));
const optionalName = v.optional(name, '');

/** Where something is looked at; '' for everywhere. A `!` before a host means every other one. */
export const Place = v.strictObject({
  service: optionalName,
  endpoint: optionalName,
  host: optionalName,
  release: optionalName
});
export type Place = v.InferOutput<typeof Place>;

const place = v.optional(Place, () => ({ service: '', endpoint: '', host: '', release: '' }));

/** Conditions `name=value` on attributes, all of which hold. */
const attributes = v.optional(
  v.pipe(
    v.array(v.pipe(name, v.regex(/^[^=]+=/, 'expected conditions like name=value'))),
    v.maxLength(8, 'expected at most 8 conditions')
  ),
  () => []
);

/** How often and how long requests take, under which conditions. */
export const REQUEST_FIGURES = ['p50', 'p95', 'p99', 'mean', 'rate', 'failed', 'apdex', 'calls'] as const;
export const CALL_FIGURES = ['p50', 'p95', 'p99', 'mean', 'rate', 'failed', 'per-request'] as const;
/** How several series of a counter become one number a minute. */
export const FOLDS = ['mean', 'sum', 'highest', 'lowest'] as const;
/** What of a histogram is looked at; of other counters there is only the value. */
export const COUNTER_PARTS = ['value', 'p95', 'median', 'often'] as const;

/**
 * A figure of something, as watches judge it and boards draw it. Every figure is defined over a stretch of whole minutes, so that the same figure over the same minutes
 * is the same number wherever it stands.
 */
export const Watched = v.variant(
  'of',
  [
    v.strictObject({
      of: v.literal('requests'),
      figure: v.picklist(REQUEST_FIGURES, `expected one of ${REQUEST_FIGURES.join(', ')}`),
      place,
      attributes,
      /** T of Apdex, milliseconds. */
      apdexMs: v.optional(v.pipe(v.number(), v.minValue(1), v.maxValue(600_000)), 500)
    }),
    v.strictObject({
      of: v.literal('calls'),
      figure: v.picklist(CALL_FIGURES, `expected one of ${CALL_FIGURES.join(', ')}`),
      place,
      /** The call group; both '' for all calls, which only conditions on attributes allow. */
      kind: optionalName,
      fingerprint: v.optional(v.pipe(v.string(), v.maxLength(20_000)), ''),
      attributes
    }),
    v.strictObject({
      of: v.literal('finding'),
      place,
      rule: v.pipe(name, v.minLength(1, 'expected a rule')),
      /** What it was found of; '' for whatever it is. */
      subject: v.optional(v.pipe(v.string(), v.maxLength(20_000)), '')
    }),
    v.strictObject({
      of: v.literal('failures'),
      /** Failures that were never seen before, or came back; or how often one happens. */
      figure: v.picklist(['new', 'rate'], 'expected new or rate'),
      place,
      /** Key of the failure group; '' for every failure. */
      failure: v.optional(v.pipe(v.string(), v.maxLength(20_000)), '')
    }),
    v.strictObject({ of: v.literal('crashes'), place }),
    v.strictObject({
      of: v.literal('counter'),
      name: v.pipe(name, v.minLength(1, 'expected the name of a counter')),
      unit: optionalName,
      /** Whether it is told as an amount a second. */
      isRate: v.optional(v.boolean(), false),
      part: v.optional(v.picklist(COUNTER_PARTS), 'value'),
      fold: v.optional(v.picklist(FOLDS, `expected one of ${FOLDS.join(', ')}`), 'mean'),
      place,
      attributes
    }),
    v.strictObject({
      of: v.literal('measure'),
      /** What is made of several counters of a host: see core/counters/strips.ts. */
      measure: v.picklist(COLUMNS.hosts, `expected one of ${COLUMNS.hosts.join(', ')}`),
      host: v.pipe(name, v.minLength(1, 'expected a host'))
    }),
    v.strictObject({
      of: v.literal('vital'),
      vital: v.picklist(VITALS, `expected one of ${VITALS.join(', ')}`),
      site: optionalName,
      page: optionalName,
      audience: v.optional(
        v.strictObject({
          device: optionalName,
          connection: optionalName,
          country: optionalName,
          release: optionalName
        }),
        () => ({ device: '', connection: '', country: '', release: '' })
      )
    })
  ],
  'expected what is watched: requests, calls, finding, failures, crashes, counter, measure or vital'
);
export type Watched = v.InferOutput<typeof Watched>;
export type WatchedOf<Of extends Watched['of']> = Extract<Watched, { of: Of }>;

/** Tells figures apart: T matters to Apdex alone. */
export const figureKey = (watched: Watched): string =>
  JSON.stringify(
    watched.of === 'requests' && watched.figure !== 'apdex' ? { ...watched, apdexMs: 0 } : watched
  );

/** Whether only single requests tell it: sums over time know nothing of attributes. */
export const isPicked = (watched: Watched): boolean =>
  (watched.of === 'requests' || watched.of === 'calls') && watched.attributes.length > 0;
