/** Pixels a pointer must move before it drags: a click is none. */
const LEAST_PX = 3;

interface Dragging {
  /** Told with every move, once it is a drag. */
  move: (event: PointerEvent) => void;
  /** Told at its end. @param dragged false for a click */
  end: (dragged: boolean) => void;
}

/** Follows a pointer that was pressed on an element until it is let go of, wherever it goes. */
export function drag(down: PointerEvent, { move, end }: Dragging): void {
  const target = down.currentTarget as Element;
  target.setPointerCapture(down.pointerId);
  let dragged = false;
  const moved = (event: Event): void => {
    const pointer = event as PointerEvent;
    const far = Math.hypot(pointer.clientX - down.clientX, pointer.clientY - down.clientY) >= LEAST_PX;
    dragged ||= far;
    if (dragged) move(pointer);
  };
  const up = (): void => {
    target.removeEventListener('pointermove', moved);
    target.removeEventListener('pointercancel', up);
    target.removeEventListener('pointerup', up);
    end(dragged);
  };
  target.addEventListener('pointermove', moved);
  target.addEventListener('pointerup', up);
  target.addEventListener('pointercancel', up);
}
