import { ACCOUNTS, type Account, type Ledger } from '@tromix/core/trace/account';

const snake = (account: Account): string => account.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);

export const IN_COLUMNS = ACCOUNTS.map((account) => `in_${snake(account)}`);
export const EX_COLUMNS = ACCOUNTS.map((account) => `ex_${snake(account)}`);
export const LEDGER_COLUMNS = [...IN_COLUMNS, ...EX_COLUMNS];

/** The columns of `rollups` that are sums, in the order rows are read and written. */
export const ROLLUP_SUMS = ['count', 'failed', 'total_ns', 'exclusive_ns', 'call_count', ...LEDGER_COLUMNS];

export function ledgerValues(ledger: Ledger): number[] {
  return ACCOUNTS.map((account) => ledger[account]);
}

/** A ledger out of ten numbers in the order of the accounts. */
export function ledgerFrom(values: readonly number[], at = 0): Ledger {
  return Object.fromEntries(ACCOUNTS.map((account, i) => [account, values[at + i] ?? 0])) as Ledger;
}
