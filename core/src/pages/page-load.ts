import type { Vitals } from './vitals';

/** What a resource of a page is, as far as the load is concerned. */
export type ResourceKind = 'document' | 'style' | 'script' | 'data' | 'picture' | 'font' | 'other';

/** A file or an answer that a page load fetched. Milliseconds from the start of the navigation. */
export interface PageResource {
  kind: ResourceKind;
  /** '' where it is not told: Resource Timing does not. */
  method: string;
  /** Without what is secret in it. */
  url: string;
  startMs: number;
  endMs: number;
  /** Its phases; null where they are not told, as for a resource of another origin that does not allow it. */
  phases: ResourcePhases | null;
  /** Bytes that came over the network, with headers; null where that is not told. */
  transferBytes: number | null;
  /** Status of the answer; 0 where it is not told. */
  status: number;
  /** The paint waits for it (Resource Timing, `renderBlockingStatus`); null where that is not told. */
  blocks: boolean | null;
  /** The request of the server that answered, where it says so by `Server-Timing`; '' where it does not. */
  traceId: string;
  spanId: string;
  /** Share of its bytes that nothing used before the largest paint; null where coverage is not known. */
  unusedShare: number | null;
}

/** Moments of a resource (W3C Resource Timing), milliseconds from the start of the navigation; null for what is not told. */
export interface ResourcePhases {
  lookupStartMs: number | null;
  lookupEndMs: number | null;
  connectStartMs: number | null;
  secureStartMs: number | null;
  connectEndMs: number | null;
  requestStartMs: number | null;
  responseStartMs: number | null;
}

/** A task that held the page's thread for more than 50 ms (W3C Long Tasks). Milliseconds from the start of the navigation. */
export interface LongTask {
  startMs: number;
  endMs: number;
  /** The script that took most of it, and its function, where that is told (long animation frames); '' where it is not. */
  script: string;
  function: string;
}

/** W3C Long Tasks: a task is long from here on. */
export const LONG_TASK_MS = 50;

/** The element that was the largest paint. */
export interface LargestPaint {
  atMs: number;
  /** What it is, as a short selector: `main > img.harbour`; '' where that is not told. */
  element: string;
  /** The resource it shows; '' for text. */
  url: string;
}

/** How a page came to be: from the network, or from a page that was kept. */
export type Navigation = 'navigate' | 'reload' | 'back-forward' | 'restored' | 'prerendered' | 'in-page';

/** Something a person did on the page, or that the page went elsewhere by itself. Never what was typed. */
export interface PageStep {
  /** Milliseconds from the start of the navigation. */
  atMs: number;
  kind: StepKind;
  /** What was clicked or sent, by its label; of a navigation in the page, its path. '' where it has none. */
  label: string;
}
export type StepKind = 'click' | 'submit' | 'navigate';

/** An error that nothing on the page caught. */
export interface PageError {
  /** Milliseconds from the start of the navigation. */
  atMs: number;
  type: string;
  message: string;
  /** As the browser wrote it; '' where it is not told, as for a script of another origin. */
  stack: string;
}

/** Who tells of a load: a browser of somebody who waited, the recorder, or an HTTP Archive. Only the first are counted in sums. */
export type LoadSource = 'visitor' | 'recorder' | 'archive';

/** One load of a page by one browser. */
export interface PageLoad {
  /** 32 hexadecimal digits: a load is a trace. */
  traceId: string;
  /** Epoch microseconds by the clock of the server that took it: browsers' clocks are off. */
  atUs: number;
  /** The page: its path without ids. */
  page: string;
  url: string;
  /** Who sends: the site. */
  service: string;
  release: string;
  /** '' for what is not told. */
  device: '' | 'phone' | 'tablet' | 'desktop';
  connection: string;
  country: string;
  session: string;
  source: LoadSource;
  navigation: Navigation;
  vitals: Vitals;
  largest: LargestPaint | null;
  /** The elements that the longest input was made at, and that shifted most, as short selectors; left out where that is not told. */
  elements: Partial<Record<'inp' | 'cls', string>>;
  /** When its load event was over, milliseconds from the start of the navigation; null where that is not told. */
  loadedMs: number | null;
  resources: PageResource[];
  tasks: LongTask[];
  steps: PageStep[];
  errors: PageError[];
  /** How many resources and tasks are not told, since there were more than are sent. */
  leftOut: number;
}
