import { VITALS, type Vital } from '@tromix/core/pages/vitals';
import { defineParams, oneOf, text, type StateOfSet } from './ui/frame/params';

/** What loads of a page are held apart by. */
export const APART_BY = ['device', 'connection', 'release', 'country'] as const;
export type ApartBy = (typeof APART_BY)[number];

/** What is looked at of page loads, besides the scope; it all stands in the URL. */
export const PAGE_PARAMS = defineParams({
  device: text('device'),
  connection: text('connection'),
  country: text('country'),
  /** The vital that is drawn over time. */
  vital: oneOf<Vital>(VITALS, 'lcp', 'vital'),
  by: oneOf(APART_BY, 'device', 'by')
});
export type PageChoices = StateOfSet<typeof PAGE_PARAMS>;

/** Which page loads are looked at; '' for every. */
export interface Audience {
  site: string;
  release: string;
  device: string;
  connection: string;
  country: string;
}

/** Which loads a view looks at: of the scope the service, which is the site, and the release; the rest by its own choices. */
export const audienceOf = (
  { service, release }: { service: string; release: string },
  { device, connection, country }: Pick<PageChoices, 'device' | 'connection' | 'country'>
): Audience => ({ site: service, release, device, connection, country });

/** How what is not told stands in the URL, and in words. */
export const NOT_TOLD = 'not told';
