import { page } from '$app/state';
import { PAGE_PARAMS } from '$lib/page-choices';
import type { Scope } from '$lib/scope';
import { viewLink } from '$lib/ui/shell/links';

/** What is looked at of pages goes along from one of their views to the next. */
function choices(): Record<string, string> {
  const state = PAGE_PARAMS.read(page.url.searchParams);
  return Object.fromEntries(PAGE_PARAMS.write(new URLSearchParams(), state));
}

export const pageLink = (id: number, change: Partial<Scope> = {}): string =>
  viewLink(`/pages/${id}`, change, choices());
export const loadLink = (traceId: string): string => viewLink(`/pages/loads/${traceId}`, {}, choices());
export const visitLink = (session: string): string =>
  viewLink(`/pages/visits/${encodeURIComponent(session)}`, {}, choices());
