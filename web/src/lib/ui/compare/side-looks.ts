import type { Side } from '@tromix/core/sides';

/** How the sides are told apart in pictures: by letter, line and colour. */
export const SIDE_LOOKS: readonly { side: Side; letter: string; token: string; dashed: boolean }[] = [
  { side: 'before', letter: 'A', token: 'ink-2', dashed: true },
  { side: 'after', letter: 'B', token: 'pen', dashed: false }
];
