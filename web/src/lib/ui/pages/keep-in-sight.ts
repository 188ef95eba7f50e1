/** Pixels at the lower end of a box that a line must not lie in: the next one is to be seen, too. */
const LOWER_END = 60;

/** Scrolls a box so that a place in it, pixels from its top, is to be seen; it stays where it is where it is seen already. */
export function keepInSight(box: HTMLElement | null, place: number): void {
  if (box && (place > box.scrollTop + box.clientHeight - LOWER_END || place < box.scrollTop + 10))
    box.scrollTop = place - box.clientHeight / 2;
}
