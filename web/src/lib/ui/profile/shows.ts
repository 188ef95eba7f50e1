/** The pictures and tables of a profile. */
export const SHOWS = [
  'root',
  'leaves',
  'time',
  'tree',
  'packages',
  'neighbours',
  'lines',
  'requests',
  'over'
] as const;
export type Show = (typeof SHOWS)[number];

export const SHOW_NAMES: Record<Show, string> = {
  root: 'From the root',
  leaves: 'From the leaves',
  time: 'In time order',
  tree: 'Call tree',
  packages: 'Packages',
  neighbours: 'Neighbours',
  lines: 'Lines',
  requests: 'Requests',
  over: 'Over time'
};

/** The pictures among them. */
export const PICTURE_NAMES: Partial<Record<Show, string>> = {
  root: 'Flame graph from the root',
  leaves: 'Flame graph from the leaves',
  time: 'Stacks in time order'
};
