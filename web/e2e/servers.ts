/** The servers the tests run against: the demo set, an empty one, one that asks for a token, and one beside running services. */
const at = (port: number) => ({ port, url: `http://127.0.0.1:${port}` });
export const DEMO = at(4490);
export const EMPTY = at(4491);
export const LOCKED = at(4492);
/** Nothing is ever sent to this one. */
export const BARE = at(4493);
/** It is sent to, and keeps it. */
export const BESIDE = at(4494);
/** Quillhaven's services run beside this one while a test asks for them. */
export const LIVE = at(4495);
/** Ports of those services; their inspectors listen a hundred above. */
export const FLEET_PORT = 4600;
