import type { Step } from '@tromix/load/drive';

const upTo = (n: number): number => 1 + Math.floor(Math.random() * n);

/** What the harbour office does, and how often. */
export const HARBOUR_STEPS: readonly Step[] = [
  { weight: 46, method: 'GET', path: () => `/vessels/${9_100_000 + upTo(399)}` },
  { weight: 24, method: 'GET', path: () => `/manifests/${upTo(200)}` },
  { weight: 9, method: 'GET', path: () => '/board' },
  { weight: 12, method: 'POST', path: () => `/calls/${upTo(60)}/berth` },
  {
    weight: 4,
    method: 'POST',
    path: () => '/manifests',
    body: () => Array.from({ length: 20 + upTo(30) }, (_, i) => ({ goods: `goods ${i}`, tonnes: upTo(40) }))
  },
  { weight: 3, method: 'POST', path: () => '/roster/entries', body: () => ({ pilot: upTo(30) }), burst: 4 }
];
