import { goto } from '$app/navigation';
import { page } from '$app/state';
import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { eachSide, type Sides } from '@tromix/core/sides';
import { comparedQuery, type Leavable } from '$lib/compared-scopes';
import { kindView } from '$lib/evidence/kinds';
import { SCOPE_PARAMETERS, scopeFrom, scopeQuery, scopeWindow, type Scope } from '$lib/scope';

export const currentScope = (): Scope => scopeFrom(page.url.searchParams);

/** A link to a view that keeps the scope, with changes. */
export function viewLink(
  path: string,
  change: Partial<Scope> = {},
  extra: Record<string, string> = {}
): string {
  const query = new URLSearchParams(scopeQuery(currentScope(), change));
  for (const [name, value] of Object.entries(extra)) query.set(name, value);
  const text = query.toString();
  return text ? `${path}?${text}` : path;
}

/** A link to a piece of evidence in its view. @param name a function, class or thread in it to go to */
export function evidenceLink(
  { kind, id }: { kind: EvidenceKind; id: string },
  change: Partial<Scope> = {},
  name = ''
): string {
  const { path, choices } = kindView(kind).place(id, name);
  return viewLink(path, change, choices);
}

/** Where two of a kind are held against each other: two of the evidence, or two requests by trace and span. */
export const pairLink = (
  kind: 'profiles' | 'heaps' | 'threads' | 'requests',
  pair: Partial<Sides<string>>
): string => viewLink(`/compare/${kind}`, {}, pair);

/** A link to the comparison of two scopes, each given as what is different about it from the one at hand. */
export const compareLink = (
  sides: Sides<Partial<Scope>>,
  extra: Record<string, string> = {},
  leave: readonly Leavable[] = []
): string => {
  const query = new URLSearchParams(
    comparedQuery(
      eachSide(sides, (side) => ({ ...currentScope(), ...side })),
      leave
    )
  );
  for (const [name, value] of Object.entries(extra)) query.set(name, value);
  return `/compare?${query}`;
};

/** A link to why the slow requests of a scope are slow: held against its normal ones. */
export const whyLink = (change: Partial<Scope> = {}): string => viewLink('/why', change);

/** A link to a view with its choices, of which only those that are not the default stand in the URL. */
export function choiceLink<Name extends string>(
  path: string,
  choices: Record<Name, string>,
  defaults: Record<Name, string>
): string {
  const chosen = (Object.entries(choices) as [Name, string][]).filter(
    ([name, value]) => value !== defaults[name]
  );
  return viewLink(path, {}, Object.fromEntries(chosen));
}

/** An address, that of the view that is open as it stands (what a page notes there by itself, too) unless another is given, with its time range as it is now: who opens it later sees the same. */
export function absoluteLink(href = location.href): string {
  const url = new URL(href, page.url);
  const scope = scopeFrom(url.searchParams);
  const { fromUs, toUs } = scopeWindow(scope, (page.data as { nowMs?: number }).nowMs ?? Date.now());
  const query = new URLSearchParams(url.searchParams);
  for (const name of SCOPE_PARAMETERS) query.delete(name);
  const absolute = scopeQuery(scope, { from: fromUs / 1000, to: toUs / 1000 });
  for (const [name, value] of new URLSearchParams(absolute)) query.append(name, value);
  return `${url.origin}${url.pathname}?${query}`;
}

/** Changes the scope of the view that is open; other parameters stay. */
export async function changeScope(change: Partial<Scope>, replace = false): Promise<void> {
  const query = new URLSearchParams(page.url.searchParams);
  for (const name of SCOPE_PARAMETERS) query.delete(name);
  for (const [name, value] of new URLSearchParams(scopeQuery(currentScope(), change)))
    query.append(name, value);
  const text = query.toString();
  await goto(`${page.url.pathname}${text ? `?${text}` : ''}`, {
    keepFocus: true,
    noScroll: true,
    replaceState: replace
  });
}
