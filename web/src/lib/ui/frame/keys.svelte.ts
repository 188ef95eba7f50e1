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

/** So long a sequence may take from one key to the next (the default of `tinykeys`). */
const SEQUENCE_MS = 1000;

/**
 * A handler of key presses outside of fields, by `tinykeys`: `?`, `g o`. Held modifiers mean something else, but for Shift, which some
 * keyboards need for a sign. A key that ends a sequence does not mean what it means alone: `p` of `g p`.
 */
export function onKeys(bindings: Readonly<Record<string, () => void>>): (event: KeyboardEvent) => void {
  let before = { key: '', at: -Infinity };
  const endsSequence = (keys: string, { timeStamp }: KeyboardEvent): boolean =>
    timeStamp - before.at < SEQUENCE_MS && `${before.key} ${keys}` in bindings;
  const guarded = Object.entries(bindings).flatMap(([keys, run]) => {
    const handler = (event: KeyboardEvent): void => {
      if (inField(event) || endsSequence(keys, event)) return;
      event.preventDefault();
      run();
    };
    return [
      [keys, handler] as const,
      ...(/^[^\w ]$/.test(keys) ? [[`Shift+${keys}`, handler] as const] : [])
    ];
  });
  const handle = createKeybindingsHandler(Object.fromEntries(guarded));
  return (event) => {
    handle(event);
    before = { key: event.key, at: event.timeStamp };
  };
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
