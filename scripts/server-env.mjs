/**
 * What the server's process is given besides its settings. The C library keeps a pool of freed memory for each thread, which
 * the databases' threads fill with texts of many sizes; two pools for all take a fifth less memory (docs/performance.md).
 */
export const SERVER_ENV = { MALLOC_ARENA_MAX: '2' };
