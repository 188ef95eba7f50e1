import type { Frame } from '@tromix/core/profile/model';

const NAMES: Record<Frame['kind'], string> = {
  app: 'application',
  dependency: 'dependency',
  runtime: 'runtime',
  native: 'native code',
  gc: 'garbage collector',
  program: 'the engine itself',
  idle: 'idle',
  root: 'everything'
};

/** Whose code it is, in words; a dependency by its name. */
export const originName = ({ kind, package: name }: Pick<Frame, 'kind' | 'package'>): string =>
  kind === 'dependency' ? name : NAMES[kind];

/** Tints of the bands over time, heaviest first; the last is for the rest. */
export const ORIGIN_TINTS = [
  'var(--acc-own-code)',
  'var(--acc-database)',
  'var(--acc-remote)',
  'var(--acc-cache)',
  'var(--acc-file)',
  'var(--acc-pause)',
  'var(--ink-3)'
];
