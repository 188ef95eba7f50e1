import { formatCount, plural } from '@tromix/core/text/format';
import { packagesOf } from '@tromix/core/threads/packages';
import type { ScopeChoice } from '../shell/scope-parts';
import type { DumpView } from './dump-view.svelte';
import { MODES } from './modes';
import type { ThreadsState } from './threads-state';

/** The dump of the series that is looked at. */
export const dumpChoice = ({ at, dumps, heads }: DumpView): ScopeChoice => ({
  shown: `${at + 1} of ${dumps.length}`,
  about: 'Dump',
  options: dumps.map(({ threads }, i) => ({
    label: heads[i],
    detail: plural(threads.length, 'thread'),
    value: String(i)
  })),
  value: String(at)
});

export const poolChoice = ({ pools }: DumpView, { pool }: ThreadsState): ScopeChoice => ({
  shown: pool || 'every pool',
  about: 'Pool',
  options: [
    { label: 'every pool', value: '' },
    ...pools
      .filter(({ threads }) => threads.length > 1)
      .map(({ pattern, threads }) => ({
        label: pattern,
        detail: formatCount(threads.length),
        value: pattern
      }))
  ],
  value: pool
});

export const modeChoice = ({ modeCounts }: DumpView, { mode }: ThreadsState): ScopeChoice => ({
  shown: mode ? `only ${MODES[mode].name}` : 'in any state',
  about: 'State',
  options: [
    { label: 'in any state', value: '' },
    ...modeCounts.map(({ mode: one, count }) => ({
      label: MODES[one].name,
      detail: formatCount(count),
      value: one
    }))
  ],
  value: mode
});

export const packageChoice = ({ frames, dump }: DumpView, { from }: ThreadsState): ScopeChoice => ({
  shown: from ? `with ${from} in the stack` : 'in any package',
  about: 'Package',
  options: [
    { label: 'in any package', value: '' },
    ...packagesOf(frames, dump?.threads ?? []).map(({ name, runtime, threads }) => ({
      label: name,
      detail: `${formatCount(threads)}${runtime ? ', runtime' : ''}`,
      value: name
    }))
  ],
  value: from
});
