const VIEWS: Record<string, string> = { threads: '/threads', heap: '/heap' };

/** The view a piece of evidence is looked at in. */
export function evidencePath({ kind, id }: { kind: string; id: string }): string {
  return `${VIEWS[kind] ?? '/profiles'}/${id}`;
}
