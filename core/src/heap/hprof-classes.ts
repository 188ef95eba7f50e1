import { Warnings } from '../formats/evidence-error';
import type { HeapClass } from './graph';
import { OBJECT_TYPE, typeSize, type HprofClassDump } from './hprof-walk';
import { isOwnJava, javaPackage } from './java-names';
import { align8, layClass, type FieldLayout } from './java-layout';
import type { Inventory } from './hprof-inventory';

const WEAK_CLASSES = new Set([
  'java.lang.ref.WeakReference',
  'java.lang.ref.SoftReference',
  'java.lang.ref.PhantomReference'
]);

/** A class with what its instances look like. */
export interface ClassFacts {
  dump: HprofClassDump;
  name: string;
  /** Number among the classes. */
  index: number;
  /** Offsets of references in the data of an instance, its own class's fields first. */
  references: Int32Array;
  /** Offset of the referent of a weak, soft or phantom reference; −1 for other classes. */
  referent: number;
  shallow: number;
  /** Offset of the field `value` of a text; −1 for other classes. */
  value: number;
}

/** Classes by number, each with what its instances look like. */
export class ClassTable {
  readonly list: HeapClass[] = [];
  readonly #byId = new Map<number, ClassFacts>();
  readonly #byName = new Map<string, number>();
  readonly #layouts = new Map<number, FieldLayout>();
  readonly #found: Inventory;
  readonly #idSize: number;
  readonly ofClasses: number;
  readonly classShallow: number;

  constructor(found: Inventory, idSize: number, warnings: Warnings) {
    this.#found = found;
    this.#idSize = idSize;
    this.ofClasses = this.named('java.lang.Class');
    for (const id of found.classDumps.keys()) this.#add(id, warnings);
    const own = [...this.#byId.values()].find(({ name }) => name === 'java.lang.Class');
    this.classShallow = own?.shallow ?? 0;
  }

  of(classId: number): ClassFacts | undefined {
    return this.#byId.get(classId);
  }

  /** The number of a class by its name. */
  named(name: string): number {
    const known = this.#byName.get(name);
    if (known !== undefined) return known;
    this.#byName.set(name, this.list.length);
    this.list.push({ name, package: javaPackage(name), own: isOwnJava(name) });
    return this.list.length - 1;
  }

  /** From the class up to its first, as far as they are in the dump; a class that is its own ancestor ends it. */
  #chain(id: number): HprofClassDump[] {
    const chain: HprofClassDump[] = [];
    const seen = new Set<number>();
    for (
      let dump = this.#found.classDumps.get(id);
      dump && !seen.has(dump.id);
      dump = this.#found.classDumps.get(dump.superId)
    ) {
      seen.add(dump.id);
      chain.push(dump);
    }
    return chain;
  }

  #add(id: number, warnings: Warnings): void {
    const chain = this.#chain(id);
    const [dump] = chain;
    const name = this.#found.classNames.get(id) ?? `class ${id.toString(16)}`;
    if (chain.at(-1)!.superId !== 0)
      warnings.add(
        'no-superclass',
        'A superclass is not in the dump: fields of its instances are not known.'
      );
    const references: number[] = [];
    let offset = 0;
    let referent = -1;
    let value = -1;
    const isWeak = chain.some((one) => WEAK_CLASSES.has(this.#found.classNames.get(one.id) ?? ''));
    for (const one of chain) {
      for (const field of one.fields) {
        if (field.type === OBJECT_TYPE) {
          references.push(offset);
          if (isWeak && this.#found.fieldNames.get(field.name) === 'referent') referent = offset;
          if (name === 'java.lang.String' && this.#found.fieldNames.get(field.name) === 'value')
            value = offset;
        }
        offset += typeSize(field.type, this.#idSize)!;
      }
    }
    const { end } = this.#layoutOf(chain);
    this.#byId.set(id, {
      dump,
      name,
      index: this.named(name),
      references: Int32Array.from(references),
      referent,
      shallow: align8(end),
      value
    });
  }

  /** From the first class down, so that deep chains need no recursion. */
  #layoutOf(chain: readonly HprofClassDump[]): FieldLayout {
    let layout: FieldLayout | null = null;
    for (const dump of chain.toReversed()) {
      let known = this.#layouts.get(dump.id);
      if (!known)
        this.#layouts.set(
          dump.id,
          (known = layClass(this.#found.classNames.get(dump.id) ?? '', layout, dump.fields))
        );
      layout = known;
    }
    return layout!;
  }
}
