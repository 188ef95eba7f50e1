/** The view a piece of evidence is looked at in. */
export function evidencePath({ kind, id }: { kind: string; id: string }): string {
  return `${kind === 'threads' ? '/threads' : '/profiles'}/${id}`;
}
