import { error } from '@sveltejs/kit';
import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { eachSide, type Side, type Sides } from '@tromix/core/sides';
import { evidenceOf, type EvidenceItem } from './evidence';

/** All evidence of a kind, and the two of it that an address names as `before` and `after`; null for one it does not name. */
export async function pairOf<K extends EvidenceKind>(
  kind: K,
  query: URLSearchParams
): Promise<{ items: EvidenceItem<K>[]; pair: Sides<EvidenceItem<K> | null> }> {
  const items = await evidenceOf(kind);
  const find = (_: null, side: Side): EvidenceItem<K> | null => {
    const id = query.get(side);
    if (!id) return null;
    const found = items.find((item) => item.id === id);
    if (!found) error(404, 'One of the two is not here. It may have been removed.');
    return found;
  };
  return { items, pair: eachSide({ before: null, after: null }, find) };
}
