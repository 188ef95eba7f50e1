import { ACCOUNT_NAMES, ACCOUNTS, type Account } from '@tromix/core/trace/account';

/** How an account is shown: its letter, its name, its colour. */
export interface AccountLook {
  letter: string;
  name: string;
  colour: string;
  /** Where a pattern cannot be drawn. */
  flat: string;
  /** Colour of text on it. */
  on: string;
}

const look = (account: Account, letter: string, variable: string, on: 'dark' | 'light'): AccountLook => ({
  letter,
  name: ACCOUNT_NAMES[account],
  colour: `var(--acc-${variable})`,
  flat: variable === 'unseen' ? 'var(--acc-unseen-flat)' : `var(--acc-${variable})`,
  on: `var(--on-${on})`
});

export const LOOKS: Record<Account, AccountLook> = {
  ownCode: look('ownCode', 'C', 'own-code', 'light'),
  database: look('database', 'D', 'database', 'dark'),
  cache: look('cache', 'K', 'cache', 'light'),
  remote: look('remote', 'R', 'remote', 'dark'),
  messaging: look('messaging', 'M', 'messaging', 'dark'),
  file: look('file', 'F', 'file', 'light'),
  lock: look('lock', 'L', 'lock', 'dark'),
  pause: look('pause', 'P', 'pause', 'dark'),
  queue: look('queue', 'Q', 'queue', 'light'),
  unseen: { ...look('unseen', '?', 'unseen', 'light'), on: 'var(--ink)' }
};

export { ACCOUNTS };
