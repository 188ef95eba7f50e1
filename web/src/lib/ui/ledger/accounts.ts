import { ACCOUNTS, type Account } from '@tromix/core/trace/account';

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

const look = (letter: string, name: string, variable: string, on: 'dark' | 'light'): AccountLook => ({
  letter,
  name,
  colour: `var(--acc-${variable})`,
  flat: variable === 'unseen' ? 'var(--acc-unseen-flat)' : `var(--acc-${variable})`,
  on: `var(--on-${on})`
});

export const LOOKS: Record<Account, AccountLook> = {
  ownCode: look('C', 'Own code', 'own-code', 'light'),
  database: look('D', 'Database', 'database', 'dark'),
  cache: look('K', 'Cache', 'cache', 'light'),
  remote: look('R', 'Remote call', 'remote', 'dark'),
  messaging: look('M', 'Messaging', 'messaging', 'dark'),
  file: look('F', 'File', 'file', 'light'),
  lock: look('L', 'Lock', 'lock', 'dark'),
  pause: look('P', 'Pause', 'pause', 'dark'),
  queue: look('Q', 'Queue', 'queue', 'light'),
  unseen: { ...look('?', 'Unseen', 'unseen', 'light'), on: 'var(--ink)' }
};

export { ACCOUNTS };
