/**
 * A keyed 53-bit hash, enough to tell whether two calls carried the same literals without keeping them.
 * It is not a cryptographic commitment: the key keeps it from being compared between installations.
 * Source: the public-domain "cyrb53" construction, two interleaved 32-bit multiply–xor lanes; from memory.
 */
export function hash53(text: string, key: number): number {
  let a = 0xdeadbeef ^ key;
  let b = 0x41c6ce57 ^ key;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    a = Math.imul(a ^ c, 2654435761);
    b = Math.imul(b ^ c, 1597334677);
  }
  a = Math.imul(a ^ (a >>> 16), 2246822507) ^ Math.imul(b ^ (b >>> 13), 3266489909);
  b = Math.imul(b ^ (b >>> 16), 2246822507) ^ Math.imul(a ^ (a >>> 13), 3266489909);
  return 4294967296 * (2097151 & b) + (a >>> 0);
}
