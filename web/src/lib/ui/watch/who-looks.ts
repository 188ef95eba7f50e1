const KEY = 'tromix-who-looks';

/** The name under which somebody looks at notices, as this browser remembers it; '' for one who does not say. */
export const whoLooks = (): string => localStorage.getItem(KEY) ?? '';

export const rememberWhoLooks = (name: string): void => localStorage.setItem(KEY, name.trim().slice(0, 100));
