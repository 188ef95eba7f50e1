import { drag } from './drag';

/** A stretch of an axis, in the axis's own unit. */
export interface Stretch {
  from: number;
  to: number;
}

/** An axis that is brushed. */
export interface BrushedAxis {
  /** First and last value that can be selected. */
  whole: () => Stretch;
  /** Pixels across. */
  width: () => number;
  selection: () => Stretch | null;
  /** One press of an arrow key. */
  step: () => number;
  /** The stretch that the first press selects. */
  first: () => Stretch;
  /** May a selection reach beyond the axis, as time goes on beyond a chart? */
  beyond?: boolean;
  /** @param done false while it is dragged */
  onselect: (selection: Stretch | null, done: boolean) => void;
}

/**
 * Selects a stretch of an axis, the same way everywhere: drag it, drag an edge (`data-edge` of `from` or `to`), double-click or Escape to clear;
 * the arrow keys move it, with Shift its end.
 */
export function brush(axis: BrushedAxis) {
  const valueAt = (px: number): number => {
    const { from, to } = axis.whole();
    return from + (Math.min(axis.width(), Math.max(0, px)) / axis.width()) * (to - from);
  };

  function onpointerdown(event: PointerEvent): void {
    if (event.button !== 0) return;
    const { left } = (event.currentTarget as Element).getBoundingClientRect();
    const edge = (event.target as Element).closest<SVGElement>('[data-edge]')?.dataset.edge;
    const now = axis.selection();
    const fixed = edge && now ? (edge === 'from' ? now.to : now.from) : valueAt(event.clientX - left);
    let latest: Stretch | null = null;
    drag(event, {
      move: (moved) => {
        const other = valueAt(moved.clientX - left);
        latest = { from: Math.min(fixed, other), to: Math.max(fixed, other) };
        axis.onselect(latest, false);
      },
      end: () => {
        if (latest) axis.onselect(latest.to > latest.from ? latest : now, true);
      }
    });
  }

  function onkeydown(event: KeyboardEvent): void {
    const now = axis.selection();
    if (event.key === 'Escape' && now) return axis.onselect(null, true);
    const direction = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!direction) return;
    event.preventDefault();
    if (!now) return axis.onselect(axis.first(), true);
    const by = direction * axis.step();
    const next = event.shiftKey
      ? { from: now.from, to: Math.max(now.from + axis.step(), now.to + by) }
      : { from: now.from + by, to: now.to + by };
    const { from, to } = axis.whole();
    if (!axis.beyond && (next.from < from || next.to > to)) return;
    axis.onselect(next, true);
  }

  return { onpointerdown, onkeydown, ondblclick: () => axis.onselect(null, true) };
}
