/** What a page load is told apart by. */

/** By what the browser says of itself (User-Agent Client Hints, else “Mobi” in its name, common practice), and by what it is pointed at with. */
export function deviceOf(): 'phone' | 'tablet' | 'desktop' {
  const { userAgentData: hints } = navigator as { userAgentData?: { mobile: boolean } };
  if (hints?.mobile || /Mobi/.test(navigator.userAgent)) return 'phone';
  return matchMedia('(pointer: coarse)').matches ? 'tablet' : 'desktop';
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
