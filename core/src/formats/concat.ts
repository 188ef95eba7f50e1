/** Parts as one; of one part the very same. @param size of all together, bytes */
export function concat(parts: readonly Uint8Array[], size: number): Uint8Array {
  if (parts.length === 1) return parts[0];
  const whole = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
