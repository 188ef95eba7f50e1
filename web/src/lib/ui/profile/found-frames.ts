import type { Frame } from '@tromix/core/profile/model';
import type { ProfileView } from '$lib/workers/profile.worker';

/** Functions whose name or file holds a text; null for no text. */
export function findFrames(frames: readonly Frame[], search: string): Set<number> | null {
  const text = search.trim().toLowerCase();
  if (text === '') return null;
  return new Set(
    frames.flatMap(({ name, file }, i) => (`${name} ${file}`.toLowerCase().includes(text) ? [i] : []))
  );
}

/** Part of a view that runs in or below some functions, each sample once: what lies below another of them adds nothing. */
export function shareOf(
  found: ReadonlySet<number>,
  { nodeFrame, nodeParent, total, sum }: Pick<ProfileView, 'nodeFrame' | 'nodeParent' | 'total' | 'sum'>
): number {
  const covered = new Uint8Array(nodeFrame.length);
  let weight = 0;
  for (let node = 0; node < nodeFrame.length; node++) {
    const parent = nodeParent[node];
    const below = parent >= 0 && covered[parent] === 1;
    const here = found.has(nodeFrame[node]);
    if (here && !below) weight += total[node];
    covered[node] = here || below ? 1 : 0;
  }
  return sum > 0 ? weight / sum : 0;
}
