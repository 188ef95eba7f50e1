import type { Warnings } from '../formats/evidence-error';

const NONE_YET = -1;
const SEVERAL = -2;
/** Elements of one object that lead nowhere, from which on it is the list of the archive. */
const LEAST_ARCHIVED = 100;

/** References that lead to no object of a dump. */
export class MissingReferences {
  #count = 0;
  /** The only object that has any. */
  #from = NONE_YET;

  add(from: number): void {
    this.#count++;
    if (this.#from === NONE_YET) this.#from = from;
    else if (this.#from !== from) this.#from = SEVERAL;
  }

  /**
   * A JVM keeps an array of the mirrors of all classes in its archive, and leaves those out of a dump that it has not loaded
   * (JDK 17, seen; gone with `-Xshare:off`).
   */
  tell(warnings: Warnings): void {
    if (this.#from >= 0 && this.#count >= LEAST_ARCHIVED)
      warnings.add(
        'archived-classes',
        'Classes of the JVM’s archive were not loaded: its own histogram counts a java.lang.Class for each, the dump leaves them out.',
        this.#count
      );
    else
      warnings.add('dangling', 'References lead to no object of the dump; they were left out.', this.#count);
  }
}
