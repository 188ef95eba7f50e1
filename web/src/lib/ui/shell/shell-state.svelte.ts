/** What is open over the page. */
export const shellState = $state({ paletteOpen: false, keysOpen: false });
