import type { Page } from '@playwright/test';

interface Rect {
  x: number;
  y: number;
  width: number;
}
/** `LayoutShift` of the Layout Instability specification, which the library of types does not have yet. */
interface LayoutShift extends PerformanceEntry {
  hadRecentInput: boolean;
  sources: { node: Node | null; previousRect: Rect; currentRect: Rect }[];
}

/** Of a computer that is slower than most: what comes late moves what is there, and on a fast one all of it comes at once. */
const SLOWER = 4;
/** So long its answer to a click takes at most. */
const ANSWER_MS = 1000;

/** Notes what moves on a page without anybody’s doing, as the browser itself tells it. To be called before a page is opened. */
export async function noteMoves(page: Page): Promise<void> {
  const session = await page.context().newCDPSession(page);
  await session.send('Emulation.setCPUThrottlingRate', { rate: SLOWER });
  await page.addInitScript(() => {
    const moves: string[] = [];
    Object.assign(window, { moves });
    const nameOf = (node: Node | null): string => {
      const element = node instanceof Element ? node : node?.parentElement;
      return element ? element.outerHTML.replace(/<!--.*?-->/g, '').slice(0, 140) : '(gone)';
    };
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries() as unknown as LayoutShift[]) {
        if (entry.hadRecentInput) continue;
        for (const { node, previousRect: before, currentRect: after } of entry.sources) {
          const [x, y] = [after.x - before.x, after.y - before.y];
          if (Math.abs(x) > 1 || Math.abs(y) > 1)
            moves.push(`${Math.round(entry.startTime)} ms: by ${x}, ${y}: ${nameOf(node)}`);
        }
      }
    }).observe({ type: 'layout-shift', buffered: true });
  });
}

export const movesOf = (page: Page): Promise<string[]> =>
  page.evaluate(() => (window as unknown as { moves: string[] }).moves);

/** Forgets what moved so far: on the slowed-down computer the answer to a click may come later than the half second in which moves are the user’s doing. */
export async function forgetMoves(page: Page): Promise<void> {
  await page.waitForTimeout(ANSWER_MS);
  await page.evaluate(() => void (window as unknown as { moves?: string[] }).moves?.splice(0));
}
