/**
 * What the server's process is given besides its settings, for the C library's memory, which the databases' threads fill with texts
 * of all sizes: two pools for all threads, and large blocks from the system and back to it at once, instead of holes in
 * the pools. Together they take half of what the defaults do (docs/performance.md).
 */
export const SERVER_ENV = {
  MALLOC_ARENA_MAX: '2',
  MALLOC_MMAP_THRESHOLD_: String(256 * 1024),
  MALLOC_TRIM_THRESHOLD_: String(2 * 1024 * 1024)
};
