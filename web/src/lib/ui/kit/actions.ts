import { toast } from 'svelte-sonner';

/** Something that can be done with a row or a mark: right-click and "…" offer the same. */
export interface Action {
  name: string;
  /** Where it leads; else what it does. */
  href?: string;
  run?: () => void;
  /** It leads to a file to be saved. */
  download?: true;
}

/** Puts a text on the clipboard and says so. */
export function copyText(text: string): void {
  void navigator.clipboard.writeText(text).then(
    () => toast.success('Copied.'),
    () => toast.error('The browser did not allow copying.')
  );
}

/** What every link offers. */
export const linkActions = (href: string): Action[] => [
  { name: 'Open', href },
  { name: 'Copy the link', run: () => copyText(new URL(href, location.href).href) }
];
