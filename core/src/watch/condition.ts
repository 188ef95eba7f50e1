import * as v from 'valibot';
import { figureOf, type Side } from './figures';
import { Watched } from './watched';

/** Minutes that the figure of a watch may be taken over. */
export const OVER_MINUTES = [1, 5, 10, 15, 30, 60] as const;
/** Most minutes in a row that may be asked for. */
export const MOST_FOR = 240;

/** What the present is held against: the same minutes a day or a week ago, or the release before. */
export const AGAINST = ['day', 'week', 'release'] as const;
export type Against = (typeof AGAINST)[number];

const finite = v.pipe(v.number('expected a number'), v.finite('expected a number'));
const share = v.pipe(finite, v.minValue(0.01, 'expected 1 % at least'), v.maxValue(100));

/** Where a watch comes on, and where it goes off again: between the two it stays as it is. */
export const Limit = v.variant('by', [
  v.strictObject({
    by: v.literal('number'),
    side: v.picklist(['above', 'below'], 'expected above or below'),
    /** In the units of the figure: nanoseconds, shares from 0 to 1, or plain numbers. */
    on: finite,
    off: finite
  }),
  v.strictObject({
    by: v.literal('before'),
    against: v.picklist(AGAINST, `expected one of ${AGAINST.join(', ')}`),
    /** Worse by so much of what it was, and clearly so; and no longer worse by so much. */
    on: share,
    off: share
  })
]);
export type Limit = v.InferOutput<typeof Limit>;

const minutes = v.pipe(v.number(), v.integer('expected whole minutes'));

/** What a watch says of a figure, minute by minute. */
export const Condition = v.pipe(
  v.strictObject({
    watched: Watched,
    limit: Limit,
    /** The figure is taken over so many minutes, the one that is judged and those before it. */
    over: v.picklist(OVER_MINUTES, `expected one of ${OVER_MINUTES.join(', ')} minutes`),
    /** So many minutes in a row must say so before it comes on, or goes off. */
    for: v.pipe(minutes, v.minValue(1, 'expected 1 minute at least'), v.maxValue(MOST_FOR)),
    /** After so many minutes without a value in a row it is said that there is none. */
    silentAfter: v.optional(v.pipe(minutes, v.minValue(1), v.maxValue(1440)), 15)
  }),
  v.check(
    ({ limit }) =>
      limit.by === 'before' || (limit.side === 'above' ? limit.off <= limit.on : limit.off >= limit.on),
    'expected the limit for off on the better side of the one for on'
  ),
  v.check(({ limit }) => limit.by === 'number' || limit.off <= limit.on, 'expected off at most as far as on'),
  v.check(
    ({ watched, limit }) => limit.by === 'number' || isComparable(watched),
    'only figures that repeat can be held against an earlier time'
  ),
  v.check(
    ({ watched, limit }) =>
      limit.by === 'number' ||
      limit.against !== 'release' ||
      ('place' in watched &&
        watched.of !== 'counter' &&
        watched.place.service !== '' &&
        watched.place.release === ''),
    'expected a service and no release where the release before is held against the present one'
  )
);
export type Condition = v.InferOutput<typeof Condition>;

/** What happens once is never worse than it was. */
export const isComparable = (watched: Watched): boolean =>
  watched.of !== 'crashes' && !(watched.of === 'failures' && watched.figure === 'new');

/** On which side of its limit a condition is worse. */
export const sideOf = ({ watched, limit }: Condition): Side =>
  limit.by === 'number' ? limit.side : figureOf(watched).worse;

/** Minutes between the present and what it is held against. */
export const BACK_MINUTES: Readonly<Record<Exclude<Against, 'release'>, number>> = {
  day: 1440,
  week: 10_080
};
