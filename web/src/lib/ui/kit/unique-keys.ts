/** Keys of rows, of which none comes twice: what comes from outside may be alike in everything a key is made of. */
export function uniqueKeys(keys: readonly string[]): string[] {
  const seen = new Map<string, number>();
  return keys.map((key) => {
    const times = seen.get(key) ?? 0;
    seen.set(key, times + 1);
    return JSON.stringify([key, times]);
  });
}
