import type { ThreadMode } from '@tromix/core/threads/model';

/** How each mode looks wherever it is shown: colour never speaks alone. */
export const MODES: Record<ThreadMode, { name: string; letter: string; colour: string; on: string }> = {
  running: { name: 'running', letter: 'R', colour: 'var(--acc-database)', on: 'var(--on-dark)' },
  blocked: { name: 'blocked', letter: 'B', colour: 'var(--acc-lock)', on: 'var(--on-dark)' },
  waiting: { name: 'waiting', letter: 'W', colour: 'var(--acc-queue)', on: 'var(--on-light)' },
  sleeping: { name: 'sleeping', letter: 'S', colour: 'var(--acc-pause)', on: 'var(--on-dark)' },
  unknown: { name: 'not recorded', letter: '?', colour: 'var(--acc-unseen-flat)', on: 'var(--on-light)' }
};
