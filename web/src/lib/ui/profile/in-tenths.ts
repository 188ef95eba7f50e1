import { formatCount } from '@tromix/core/text/format';

/** A count of which parts are known too: requests that were recorded in part, calls a request. */
export const inTenths = (count: number): string => formatCount(tenths(count));
/** The same as a number, for a column that is sorted. */
export const tenths = (count: number): number => Math.round(count * 10) / 10;
