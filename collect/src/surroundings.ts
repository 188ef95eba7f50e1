/** What a page load is told apart by. */

/** Shorter sides of a screen below this are those of phones, CSS pixels (common practice). */
const PHONE_PX = 600;

export function deviceOf(): 'phone' | 'tablet' | 'desktop' {
  if (!matchMedia('(pointer: coarse)').matches) return 'desktop';
  return Math.min(screen.width, screen.height) < PHONE_PX ? 'phone' : 'tablet';
}

/** `4g`, `3g` … (W3C Network Information); '' where the browser does not tell. */
export const connectionOf = (): string =>
  (navigator as { connection?: { effectiveType?: string } }).connection?.effectiveType ?? '';

const NAVIGATIONS: Record<string, string> = { back_forward: 'back-forward', prerender: 'prerendered' };

/** How the document came to be (W3C Navigation Timing). */
export function navigationOf(entry: PerformanceNavigationTiming | undefined): string {
  if ((entry as { activationStart?: number } | undefined)?.activationStart) return 'prerendered';
  const type = entry?.type ?? 'navigate';
  return NAVIGATIONS[type] ?? type;
}
