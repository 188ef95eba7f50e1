/** The pictures and tables of a profile. */
export const SHOWS = [
  'root',
  'leaves',
  'time',
  'tree',
  'packages',
  'neighbours',
  'lines',
  'requests'
] as const;
export type Show = (typeof SHOWS)[number];
