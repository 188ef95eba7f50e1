/** The servers the tests run against: the demo set, an empty one, and one that asks for a token. */
const at = (port: number) => ({ port, url: `http://127.0.0.1:${port}` });
export const DEMO = at(4490);
export const EMPTY = at(4491);
export const LOCKED = at(4492);
/** Nothing is ever sent to this one. */
export const BARE = at(4493);
