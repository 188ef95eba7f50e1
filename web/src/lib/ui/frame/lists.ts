/** The list of a view: the first element so marked. */
const LIST = '[data-list]';
/** Its rows, where they can be focused themselves; else the list chooses its rows. */
const ROW = '[data-row]';

/** Goes to the first row of a view’s list. @returns false where the view has no list */
export function goToList(view: ParentNode | null): boolean {
  const list = view?.querySelector<HTMLElement>(LIST);
  const target = list?.querySelector<HTMLElement>(ROW) ?? list;
  target?.focus();
  return target !== null && target !== undefined;
}

/** Arrow keys move among the rows of a list. An action for its element. */
export function rowsByArrows(list: HTMLElement): { destroy: () => void } {
  const onkeydown = (event: KeyboardEvent): void => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step || !(event.target instanceof HTMLElement) || !event.target.matches(ROW)) return;
    const rows = [...list.querySelectorAll<HTMLElement>(ROW)];
    event.preventDefault();
    rows[rows.indexOf(event.target) + step]?.focus();
  };
  list.addEventListener('keydown', onkeydown);
  return { destroy: () => list.removeEventListener('keydown', onkeydown) };
}
