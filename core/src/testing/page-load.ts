import type { PageLoad, PageResource, ResourceKind } from '../pages/page-load';

/** A page load for tests: what is not given is empty. */
export const load = (more: Partial<PageLoad> = {}): PageLoad => ({
  traceId: '0'.repeat(31) + '1',
  atUs: 1_700_000_000_000_000,
  page: '/board',
  url: 'https://quay.example/board',
  service: 'board',
  release: '7.3',
  device: 'phone',
  connection: '4g',
  country: '',
  session: 's1',
  source: 'visitor',
  navigation: 'navigate',
  vitals: {},
  largest: null,
  elements: {},
  loadedMs: null,
  resources: [],
  tasks: [],
  steps: [],
  errors: [],
  leftOut: 0,
  ...more
});

/** A resource of a page load for tests. */
export const resource = (
  kind: ResourceKind,
  url: string,
  startMs: number,
  endMs: number,
  more: Partial<PageResource> = {}
): PageResource => ({
  kind,
  method: 'GET',
  url,
  startMs,
  endMs,
  phases: null,
  transferBytes: null,
  status: 200,
  blocks: null,
  traceId: '',
  spanId: '',
  unusedShare: null,
  ...more
});
