import type { Case } from '@tromix/core/case/case';

/** Parameters of an address that are times, epoch milliseconds. */
const TIMES = ['from', 'to'];

/** A case as if it had happened at another time: what it links to moves with it. @param byUs microseconds */
export const moveCase = (one: Case, byUs: number): Case => ({
  ...one,
  createdAtUs: one.createdAtUs + byUs,
  entries: one.entries.map((entry) => ({
    ...entry,
    atUs: entry.atUs + byUs,
    pin: entry.pin && { ...entry.pin, address: moveAddress(entry.pin.address, byUs / 1000) }
  }))
});

/** @param byMs milliseconds */
export function moveAddress(address: string, byMs: number): string {
  const [path, query] = address.split('?');
  return query === undefined ? path : `${path}?${moveQuery(query, byMs)}`;
}

function moveQuery(text: string, byMs: number): string {
  const query = new URLSearchParams(text);
  for (const name of TIMES) {
    const ms = Number(query.get(name));
    if (ms > 0) query.set(name, String(Math.round(ms + byMs)));
  }
  // The other side of a comparison is a scope of its own.
  const other = query.get('a');
  if (other) query.set('a', moveQuery(other, byMs));
  return query.toString();
}
