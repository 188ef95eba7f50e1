/** The package has types, but its `exports` do not name them. */
declare module 'tinykeys' {
  export function createKeybindingsHandler(
    bindings: Record<string, (event: KeyboardEvent) => void>
  ): (event: KeyboardEvent) => void;
}
