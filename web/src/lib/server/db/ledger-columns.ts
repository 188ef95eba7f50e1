import { getTableColumns } from 'drizzle-orm';
import { ACCOUNTS, type Account, type Ledger } from '@tromix/core/trace/account';
import { requests } from './schema';

type InKey = `in${Capitalize<Account>}`;
type ExKey = `ex${Capitalize<Account>}`;
export type LedgerKey = InKey | ExKey;

const capital = (account: Account): Capitalize<Account> =>
  `${account[0].toUpperCase()}${account.slice(1)}` as Capitalize<Account>;
const IN_KEYS = ACCOUNTS.map((account): InKey => `in${capital(account)}`);
const EX_KEYS = ACCOUNTS.map((account): ExKey => `ex${capital(account)}`);
/** Of a request's own ledger, then of the time in which it is the innermost, each in the order of the accounts. */
export const LEDGER_KEYS: readonly LedgerKey[] = [...IN_KEYS, ...EX_KEYS];

const COLUMNS = getTableColumns(requests);
export const columnOf = (key: LedgerKey): string => COLUMNS[key].name;
export const IN_COLUMNS = IN_KEYS.map(columnOf);

/** Two ledgers as a row has them. */
export function ledgerRecord(own: Ledger, exclusive: Ledger): Record<LedgerKey, number> {
  const record = {} as Record<LedgerKey, number>;
  ACCOUNTS.forEach((account, i) => {
    record[IN_KEYS[i]] = own[account];
    record[EX_KEYS[i]] = exclusive[account];
  });
  return record;
}

/** A ledger out of ten numbers in the order of the accounts. */
export function ledgerFrom(values: readonly number[], at = 0): Ledger {
  return Object.fromEntries(ACCOUNTS.map((account, i) => [account, values[at + i] ?? 0])) as Ledger;
}
