import { numbersOf, valuesById, type AttributeValue } from './attributes';
import { namesById } from './names-by-id';

// What a request has that may set it apart, as one kind of number: attribute values as they are numbered, hosts and releases below zero.

const hostKey = (id: number): number => -2 * id;
const releaseKey = (id: number): number => -2 * id - 1;

/** @param pairs numbers of attribute values, as they are stored */
export const keysOf = (hostId: number, releaseId: number, pairs: string): number[] => [
  hostKey(hostId),
  releaseKey(releaseId),
  ...numbersOf(pairs)
];

/** What some of these numbers stand for. */
export async function namesOfKeys(keys: readonly number[]): Promise<Map<number, AttributeValue>> {
  const [hosts, releases, values] = await Promise.all([
    namesById(
      'hosts',
      keys.filter((key) => key < 0 && key % 2 === 0).map((key) => key / -2)
    ),
    namesById(
      'releases',
      keys.filter((key) => key < 0 && key % 2 !== 0).map((key) => (key + 1) / -2)
    ),
    valuesById(keys.filter((key) => key > 0))
  ]);
  return new Map([
    ...[...hosts].map(([id, value]) => [hostKey(id), { name: 'host', value }] as const),
    ...[...releases].map(([id, value]) => [releaseKey(id), { name: 'release', value }] as const),
    ...values
  ]);
}
