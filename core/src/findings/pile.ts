import { holderFrom, keptBy, keptGroups, shortClassName, nameOfObject } from '../heap/holders';
import { greatest } from '../heap/top';
import { formatBytes, formatCount, formatShare } from '../text/format';
import { severityOf } from './finding';
import type { HeapContext, HeapFinding } from './heap-finding';

/** A container with fewer entries is looked through by eye. Common practice. */
export const PILE_MIN_ENTRIES = 100;
/** Below this part of the heap it is not what fills the memory. */
export const PILE_MIN_SHARE = 0.1;
const MOST_TOPS = 12;

/** An object that directly keeps very many others alive, and a good part of the heap with them. */
export function pile({ store }: HeapContext): HeapFinding[] {
  const { count, liveBytes } = store.meta;
  const retained = store.column('retained');
  const found: HeapFinding[] = [];
  const open = greatest(keptBy(store, count), (object) => retained[object], 0, MOST_TOPS);
  while (open.length > 0) {
    const top = open.shift()!;
    if (retained[top] < PILE_MIN_SHARE * liveBytes) continue;
    const holder = holderFrom(store, top);
    const last = holder.path.at(-1)!;
    const [most] = keptGroups(store, last);
    const alike = most && most.count >= PILE_MIN_ENTRIES && most.retainedBytes >= 0.5 * retained[last];
    // Several large things in one place are looked at one by one: V8's root, a loader.
    if (!alike) {
      open.push(...greatest(keptBy(store, last), (object) => retained[object], 0, MOST_TOPS));
      continue;
    }
    const [inside] = keptGroups(store, most.sample);
    const each = Math.round(most.retainedBytes / most.count);
    const content =
      inside && inside.retainedBytes > 0.5 * retained[most.sample]
        ? `, each with its ${shortClassName(inside.className)}`
        : '';
    found.push({
      rule: 'pile',
      title: 'A pile',
      severity: severityOf(retained[last], liveBytes),
      sentence: `${holder.name} keeps ${formatShare(retained[last] / liveBytes)} of the heap, ${formatBytes(retained[last])}: ${formatCount(most.count)} × ${shortClassName(most.className)}${content}, ${formatBytes(each)} each on average.`,
      remedy:
        'See what takes entries out again. Give it a limit or a time to live, or keep less in each entry.',
      figures: {
        entries: most.count,
        retainedBytes: retained[last],
        share: retained[last] / liveBytes,
        bytesEach: each
      },
      evidence: {
        className: nameOfObject(store, last),
        object: last,
        path: holder.path.map((object) => nameOfObject(store, object))
      },
      cost: retained[last]
    });
  }
  return found;
}
