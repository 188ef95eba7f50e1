/** What is open over the page. */
export const shellState = $state({ paletteOpen: false, keysOpen: false });

/** A key and what it does on the screen that is open. */
export interface KeyHelp {
  keys: string;
  does: string;
}

let screenKeys = $state.raw<KeyHelp[]>([]);

/** The keys of the screen that is open, for the list behind `?`. */
export const keysOfScreen = (): KeyHelp[] => screenKeys;
export function describeKeys(keys: KeyHelp[]): void {
  screenKeys = keys;
}
