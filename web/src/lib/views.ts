import type { EvidenceKind } from '@tromix/core/evidence/kinds';

/** A view of the navigation. */
export interface View {
  name: string;
  path: string;
  /** Goes there after `g`. */
  key: string;
  /** The question it answers, under which it stands. */
  question: string;
  /** Evidence it lists: the navigation counts what of it lies in the scope. `all` for every kind. `findings`, `cases`: how many are open; `watches`: how often they came on and nobody looked. */
  lists?: EvidenceKind | 'all' | 'findings' | 'cases' | 'watches';
}

/** Every view, in the order of the navigation: the palette, the keys, their help and the tests read this list. */
export const VIEWS: readonly View[] = [
  { name: 'Overview', path: '/', key: 'o', question: 'Where is it slow?' },
  { name: 'Findings', path: '/findings', key: 'f', question: 'Where is it slow?', lists: 'findings' },
  { name: 'Endpoint', path: '/endpoint', key: 'n', question: 'Where is it slow?' },
  { name: 'Requests', path: '/requests', key: 'r', question: 'Where is it slow?' },
  { name: 'Calls', path: '/calls', key: 'c', question: 'Where is it slow?' },
  { name: 'Pages', path: '/pages', key: 'a', question: 'Where is it slow?' },
  { name: 'Hosts', path: '/hosts', key: 'u', question: 'Where is it slow?' },
  { name: 'Profiles', path: '/profiles', key: 'p', question: 'What is the code doing?', lists: 'profile' },
  { name: 'Threads', path: '/threads', key: 't', question: 'What is the code doing?', lists: 'threads' },
  { name: 'Heap', path: '/heap', key: 'h', question: 'What is the code doing?', lists: 'heap' },
  { name: 'Failures', path: '/failures', key: 'b', question: 'What broke?' },
  { name: 'Crashes', path: '/crashes', key: 'x', question: 'What broke?', lists: 'crash' },
  { name: 'Logs', path: '/logs', key: 'k', question: 'What broke?' },
  { name: 'Compare', path: '/compare', key: 'm', question: 'Did the fix help?' },
  { name: 'Load runs', path: '/load', key: 'l', question: 'Did the fix help?', lists: 'load' },
  { name: 'Connect', path: '/connect', key: 'w', question: 'Gather and keep' },
  { name: 'Evidence', path: '/evidence', key: 'e', question: 'Gather and keep', lists: 'all' },
  { name: 'Recorder', path: '/recorder', key: 'd', question: 'Gather and keep' },
  { name: 'Watches', path: '/watches', key: 'i', question: 'Gather and keep', lists: 'watches' },
  { name: 'Boards', path: '/boards', key: 'v', question: 'Gather and keep' },
  { name: 'Cases', path: '/cases', key: 's', question: 'Gather and keep', lists: 'cases' }
];

/** The view a page belongs to. */
export const viewOf = (pathname: string): View | undefined =>
  VIEWS.find(({ path }) => path === pathname || (path !== '/' && pathname.startsWith(`${path}/`)));
