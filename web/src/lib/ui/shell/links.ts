import { goto } from '$app/navigation';
import { page } from '$app/state';
import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { kindView } from '$lib/evidence/kinds';
import { SCOPE_PARAMETERS, scopeFrom, scopeQuery, type Scope } from '$lib/scope';

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

/** A link to a piece of evidence in its view. */
export function evidenceLink(
  { kind, id }: { kind: EvidenceKind; id: string },
  change: Partial<Scope> = {}
): string {
  const { path, choices } = kindView(kind).place(id);
  return viewLink(path, change, choices);
}

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
