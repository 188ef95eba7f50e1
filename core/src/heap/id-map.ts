const PAGE_BITS = 16;
const PAGE = 2 ** PAGE_BITS;
const WORDS = PAGE / 32;
/** Pages a direct table may span; beyond, a Map is asked. */
const MAX_TABLE = 4_000_000;
/** Bytes of bitmap each object id may cost before they are sorted instead. */
const MAX_BYTES_EACH = 64;

/**
 * Object id → number of the object. Addresses lie densely: a bit for each possible one, and the count of bits before it, find an object
 * in a few steps and a few bits of memory. Object ids that are scattered are sorted and found by halves.
 */
export interface IdMap {
  /** −1 for an object id no object has. */
  indexOf: (id: number) => number;
  /** Object ids that came more than once; the first counts. */
  duplicates: number;
}

/** @param ids of the objects by their number. */
export function idMap(ids: Float64Array): IdMap {
  let bits = 0;
  for (let i = 0; i < ids.length; i++) bits |= ids[i] % 4_294_967_296;
  const step = bits === 0 ? 1 : 2 ** Math.min(12, 31 - Math.clz32(bits & -bits));
  const pages = new Map<number, number>();
  let last = -1;
  for (let i = 0; i < ids.length; i++) {
    const page = Math.floor(ids[i] / step / PAGE);
    if (page === last) continue;
    last = page;
    if (!pages.has(page)) pages.set(page, pages.size);
    if (pages.size * (PAGE / 4) > MAX_BYTES_EACH * ids.length + 4_000_000) return sortedMap(ids);
  }
  return bitMap(ids, step, pages);
}

function bitMap(ids: Float64Array, step: number, pages: ReadonlyMap<number, number>): IdMap {
  const low = Math.min(...spread(pages));
  const high = Math.max(...spread(pages));
  const table = high - low < MAX_TABLE ? new Int32Array(high - low + 1).fill(-1) : null;
  if (table) for (const [page, number] of pages) table[page - low] = number;
  const pageOf = (page: number): number => {
    if (!table) return pages.get(page) ?? -1;
    const at = page - low;
    return at >= 0 && at < table.length ? table[at] : -1;
  };
  const bits = new Uint32Array(pages.size * WORDS);
  let duplicates = 0;
  for (let i = 0; i < ids.length; i++) {
    const slot = ids[i] / step;
    const page = Math.floor(slot / PAGE);
    const within = slot - page * PAGE;
    const word = pageOf(page) * WORDS + (within >>> 5);
    const bit = 1 << (within & 31);
    if (bits[word] & bit) duplicates++;
    bits[word] |= bit;
  }
  const before = new Uint32Array(bits.length);
  for (let word = 1; word < bits.length; word++) before[word] = before[word - 1] + ones(bits[word - 1]);
  const objects = new Uint32Array(ids.length);
  const slotOf = (id: number): number => {
    const slot = id / step;
    const page = Math.floor(slot / PAGE);
    const number = pageOf(page);
    if (number < 0) return -1;
    const within = slot - page * PAGE;
    if (within !== Math.floor(within)) return -1;
    const word = number * WORDS + (within >>> 5);
    const bit = 1 << (within & 31);
    if ((bits[word] & bit) === 0) return -1;
    return before[word] + ones(bits[word] & (bit - 1));
  };
  // From the last to the first, so that the first of equal object ids stays.
  for (let i = ids.length - 1; i >= 0; i--) objects[slotOf(ids[i])] = i;
  return {
    duplicates,
    indexOf(id) {
      const slot = slotOf(id);
      return slot < 0 ? -1 : objects[slot];
    }
  };
}

/** Keys of few pages; a list, because a spread of very many arguments overflows. */
function spread(pages: ReadonlyMap<number, number>): number[] {
  let low = Infinity;
  let high = -Infinity;
  for (const page of pages.keys()) {
    low = Math.min(low, page);
    high = Math.max(high, page);
  }
  return pages.size === 0 ? [0] : [low, high];
}

/** Bits set in a word (Hacker's Delight, 5-1). */
function ones(word: number): number {
  let sum = word - ((word >>> 1) & 0x55555555);
  sum = (sum & 0x33333333) + ((sum >>> 2) & 0x33333333);
  return (((sum + (sum >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}

function sortedMap(ids: Float64Array): IdMap {
  const order = new Uint32Array(ids.length);
  for (let i = 0; i < order.length; i++) order[i] = i;
  order.sort((a, b) => ids[a] - ids[b] || a - b);
  let duplicates = 0;
  for (let i = 1; i < order.length; i++) if (ids[order[i]] === ids[order[i - 1]]) duplicates++;
  return {
    duplicates,
    indexOf(id) {
      let low = 0;
      let high = order.length;
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (ids[order[middle]] < id) low = middle + 1;
        else high = middle;
      }
      return low < order.length && ids[order[low]] === id ? order[low] : -1;
    }
  };
}
