import type { ChainStep } from '../pages/chain';
import type { PageLoad } from '../pages/page-load';
import { formatDuration } from '../text/format';
import type { Conclusion } from './finding';

/** A load of a page, and its way to the largest paint. */
export interface PageContext {
  load: PageLoad;
  chain: readonly ChainStep[];
}

/** What a rule found in a page load. The cost is time, nanoseconds. */
export type FoundInPage = Conclusion<{
  /** Places in the load's lists. */
  resources: number[];
  tasks: number[];
}>;
export type PageFinding<Name extends string = string> = FoundInPage & { rule: Name };

/** Less of the way to the paint does not make a page slow. */
export const LEAST_SHARE = 0.2;
/** Nor is it felt by whoever waits. */
export const LEAST_MS = 500;
export const OF_THE_WAY = {
  name: 'of the way to the largest paint',
  value: `${LEAST_MS} ms or more, and ${LEAST_SHARE * 100} %`,
  why: 'Less is not what makes the page slow.'
};

export const isMuch = (ms: number, { load: { largest } }: PageContext): boolean =>
  largest !== null && ms >= LEAST_MS && ms >= LEAST_SHARE * largest.atMs;

/** Milliseconds in words. */
export const inMs = (ms: number): string => formatDuration(ms * 1e6);

/** A file by the end of its address. */
export function fileName(url: string): string {
  const path = url.replace(/[?#].*$/s, '');
  return path.slice(path.lastIndexOf('/') + 1) || path;
}
