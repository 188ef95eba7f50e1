/** Classes of durations in one factor of ten: the rows of the heat map and the bars of the distribution. */
export const DURATION_CLASSES = 10;

/** Which requests count as slow when they are held against the others. */
export const SLOW_KINDS = { tenth: 'the slowest tenth', t: 'slower than T', '4t': 'slower than 4T' } as const;
export type SlowKind = keyof typeof SLOW_KINDS;
