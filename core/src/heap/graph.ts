/** Why an object is held from outside the heap. */
export interface RootKind {
  kind: string;
  /** In a sentence: what that is. */
  about: string;
}

export interface HeapClass {
  name: string;
  /** Package of a Java class; for JavaScript the kind of object. */
  package: string;
  /** Written by the program's own developers, as far as the name tells. */
  own: boolean;
}

/**
 * Objects and their references in flat arrays. Objects are numbered as they stand in the dump; `edgeTo` of object i lie at
 * `edgeStart[i]` to `edgeStart[i + 1]`. Only references that keep alive are in it.
 */
export interface HeapGraph {
  count: number;
  edgeStart: Uint32Array;
  edgeTo: Uint32Array;
  /** Objects held from outside, each once. */
  roots: Uint32Array;
}
