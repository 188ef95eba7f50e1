import { bigHolders, type BigHolder } from '../heap/big-holders';
import { keptGroups, nameOfObject, shortClassName } from '../heap/holders';
import type { HeapStore } from '../heap/heap-store';
import { formatBytes, formatCount, formatShare } from '../text/format';
import { severityOf } from './finding';
import type { HeapContext, HeapFinding } from './heap-finding';

/** An object, a static field, a global or a thread that keeps a good part of the heap, whatever lies between it and what it keeps. */
export function oneHolder({ store }: HeapContext): HeapFinding[] {
  return bigHolders(store)
    .filter(({ chain }) => chain === null)
    .map((holder) => {
      const last = holder.path[holder.path.length - 1];
      const [most] = keptGroups(store, last);
      const content = most && most.count > 1 ? `: ${contentWords(store, most)}` : '';
      return found(store, holder, {
        rule: 'one-holder',
        title: `${holder.name} holds ${formatShare(holder.share)}`,
        sentence: `${holder.name} keeps ${formatShare(holder.share)} of the heap, ${formatBytes(holder.retainedBytes)}${content}.`,
        remedy:
          'See what takes entries out again. Give it a limit or a time to live, or keep less in each entry.',
        figures: {
          entries: most?.count ?? 0,
          bytesEach: most ? Math.round(most.retainedBytes / most.count) : 0
        }
      });
    });
}

/** A linked structure that keeps a good part of the heap. */
export function longChain({ store }: HeapContext): HeapFinding[] {
  return bigHolders(store).flatMap((holder) => {
    const { chain } = holder;
    if (chain === null) return [];
    const each = Math.round(holder.retainedBytes / chain.count);
    return found(store, holder, {
      rule: 'long-chain',
      title: 'A long chain',
      sentence: `A chain of ${formatCount(chain.count)} × ${shortClassName(chain.className).replace(/^.*\$(?=\D)/, '')} from ${holder.name}, through ${chain.via}, keeps ${formatShare(holder.share)} of the heap, ${formatBytes(holder.retainedBytes)}: ${formatBytes(each)} a link.`,
      remedy:
        'See what cuts it off again: a linked structure keeps everything behind its first link. Give it a limit, or keep the links in an array.',
      figures: { links: chain.count, bytesEach: each }
    });
  });
}

function contentWords(
  store: HeapStore,
  most: { className: string; count: number; retainedBytes: number; sample: number }
): string {
  const [inside] = keptGroups(store, most.sample);
  const mainly = inside && inside.retainedBytes > 0.5 * store.at('retained', most.sample);
  const each = mainly ? `, each with its ${shortClassName(inside.className)}` : '';
  return `${formatCount(most.count)} × ${shortClassName(most.className)}${each}, ${formatBytes(Math.round(most.retainedBytes / most.count))} each on average`;
}

function found(
  store: HeapStore,
  holder: BigHolder,
  told: Pick<HeapFinding, 'rule' | 'title' | 'sentence' | 'remedy' | 'figures'>
): HeapFinding {
  const { retainedBytes, share, object, path } = holder;
  return {
    ...told,
    severity: severityOf(retainedBytes, store.meta.liveBytes),
    figures: { ...told.figures, retainedBytes, share },
    evidence: {
      className: holder.className,
      object,
      path: path.map((one) => nameOfObject(store, one))
    },
    cost: retainedBytes
  };
}
