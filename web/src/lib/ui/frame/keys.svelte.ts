import { createKeybindingsHandler } from 'tinykeys';

/** A key of the screen that is open, and what it does. */
export interface ScreenKey {
  /** As the list behind `?` names it. */
  keys: string;
  does: string;
  /** For what no part of the screen handles by itself: pressed anywhere but in a field. */
  run?: () => void;
}

let ofScreen = $state.raw<readonly ScreenKey[]>([]);

/** The keys of the screen that is open, for the list behind `?`. */
export const keysOfScreen = (): readonly ScreenKey[] => ofScreen;

/** Whoever types into a field means the field. */
const inField = ({ target }: KeyboardEvent): boolean =>
  target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]');

/**
 * A handler of key presses outside of fields, by `tinykeys`: `?`, `g o`. Held modifiers mean something else, but for Shift, which some
 * keyboards need for a sign.
 */
export function onKeys(bindings: Readonly<Record<string, () => void>>): (event: KeyboardEvent) => void {
  const guarded = Object.entries(bindings).flatMap(([keys, run]) => {
    const handler = (event: KeyboardEvent): void => {
      if (inField(event)) return;
      event.preventDefault();
      run();
    };
    return [
      [keys, handler] as const,
      ...(/^[^\w ]$/.test(keys) ? [[`Shift+${keys}`, handler] as const] : [])
    ];
  });
  return createKeybindingsHandler(Object.fromEntries(guarded));
}

/** The keys of a screen: handled while it is open, and listed behind `?`. To be called while a component is set up. */
export function screenKeys(keys: readonly ScreenKey[]): void {
  $effect(() => {
    ofScreen = keys;
    const handler = onKeys(
      Object.fromEntries(keys.flatMap(({ keys: key, run }) => (run ? [[key, run] as const] : [])))
    );
    window.addEventListener('keydown', handler);
    return () => {
      window.removeEventListener('keydown', handler);
      if (ofScreen === keys) ofScreen = [];
    };
  });
}
