import type { Warning } from '../formats/evidence-error';
import { shortUrl } from '../pages/load-rows';
import type { PageLoad, PageResource } from '../pages/page-load';

/** A load of a page, as a command line tells it. Milliseconds from the start of the navigation. */
export interface InspectedLoad {
  page: string;
  /** ISO 8601. */
  at: string;
  /** null where it is not told. */
  firstByteMs: number | null;
  loadedMs: number | null;
  resources: number;
  /** Over the network, of those that tell it. */
  bytes: number;
  failed: number;
  /** What ended last, and what took longest. */
  slowest: { name: string; kind: PageResource['kind']; startMs: number; durationMs: number }[];
}
export interface InspectedPages {
  loads: InspectedLoad[];
  warnings: Warning[];
}

/** What an HTTP Archive tells of its page loads. @param top how many of the longest resources of each; 0 for all */
export const inspectPages = (loads: readonly PageLoad[], top: number): InspectedPages => ({
  loads: loads.map((load) => ({
    page: load.page,
    at: new Date(load.atUs / 1000).toISOString(),
    firstByteMs: load.vitals.ttfb ?? null,
    loadedMs: load.loadedMs,
    resources: load.resources.length,
    bytes: load.resources.reduce((sum, { transferBytes }) => sum + (transferBytes ?? 0), 0),
    failed: load.resources.filter(({ status }) => status >= 400).length,
    slowest: load.resources
      .map(({ url, kind, startMs, endMs }) => ({
        name: shortUrl(url),
        kind,
        startMs,
        durationMs: endMs - startMs
      }))
      .sort((a, b) => b.durationMs - a.durationMs)
      .slice(0, top || undefined)
  })),
  warnings: []
});
