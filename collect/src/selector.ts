/** Elements that a selector names, from the innermost on. */
const MOST = 3;

/** Where an element stands, as a short selector: `main > img.harbour`. By names its page gives it, never by its content. */
export function selectorOf(node: Node | null | undefined): string {
  const names: string[] = [];
  let at = node instanceof Element ? node : (node?.parentElement ?? null);
  while (at && names.length < MOST && at !== document.body && at !== document.documentElement) {
    const [first] = at.classList;
    names.unshift(`${at.tagName.toLowerCase()}${at.id ? `#${at.id}` : first ? `.${first}` : ''}`);
    if (at.id) break;
    at = at.parentElement;
  }
  return names.join(' > ').slice(0, 200);
}
