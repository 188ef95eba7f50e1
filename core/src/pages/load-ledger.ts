import { emptyLedger, type Account, type Ledger } from '../trace/account';
import type { ChainStep } from './chain';
import type { PageLoad, ResourceKind } from './page-load';

/** The account that a resource's time is booked to: what a server works out is a remote call, what lies ready is a file. */
const ACCOUNTS: Record<ResourceKind, Account> = {
  document: 'remote',
  data: 'remote',
  style: 'file',
  script: 'file',
  picture: 'file',
  font: 'file',
  other: 'file'
};

/** The account of a step: tasks are the page's own code, and what nobody knows is unseen. */
export function accountOfStep({ resources }: Pick<PageLoad, 'resources'>, step: ChainStep): Account {
  if (step.of === 'resource') return ACCOUNTS[resources[step.index].kind];
  return step.of === 'task' ? 'ownCode' : 'unseen';
}

/** The time to the largest paint by account, nanoseconds: it adds up to that time. */
export function loadLedger(load: PageLoad, chain: readonly ChainStep[]): Ledger {
  const ledger = emptyLedger();
  for (const step of chain) ledger[accountOfStep(load, step)] += Math.round((step.toMs - step.fromMs) * 1e6);
  return ledger;
}
