/**
 * Stacks, each kept once: thousands of threads of a pool stand at the same few places. Equal stacks are the same array afterwards, and
 * what follows from a stack alone need be found out once.
 */
export class StackList {
  readonly #byHash = new Map<number, Int32Array[]>();

  /** The stack that was given first of all that are equal to this one. */
  of(stack: Int32Array): Int32Array {
    const hash = hashOf(stack);
    const alike = this.#byHash.get(hash);
    const known = alike?.find((one) => equal(one, stack));
    if (known) return known;
    if (alike) alike.push(stack);
    else this.#byHash.set(hash, [stack]);
    return stack;
  }
}

/** Fowler–Noll–Vo, 32 bits, over integers instead of bytes (constants from memory); which hash it is changes nothing but the speed. */
function hashOf(stack: Int32Array): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < stack.length; i++) hash = Math.imul(hash ^ stack[i], 0x01000193);
  return hash;
}

function equal(a: Int32Array, b: Int32Array): boolean {
  if (a === b) return true;
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}
