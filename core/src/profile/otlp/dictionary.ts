import type { Warnings } from '../../formats/evidence-error';
import { has, intOf, listOf, stringOf, type Loose } from '../../formats/otlp/values';
import { whoseAny } from '../../whose/any';
import { NATIVE, RUNTIME, type Whose } from '../../whose/whose';
import type { FrameTable } from '../frame-table';

/** The frames of a stack, outermost first, and the line of the innermost; 0 where it is not told. */
export interface ToldStack {
  frames: number[];
  line: number;
}

/** Kinds of frames that say whose code it is (OpenTelemetry semantic conventions, `profile.frame.type`). */
const KINDS: Record<string, Whose> = { kernel: RUNTIME, native: NATIVE };

/** What the samples of OTLP profiles refer to. Entry 0 of each table stands for none. */
export class Dictionary {
  readonly #warnings: Warnings;
  readonly #frames: FrameTable;
  readonly #texts: unknown[];
  readonly #mappings: Loose[];
  readonly #locations: Loose[];
  readonly #functions: Loose[];
  readonly #attributes: Loose[];
  readonly #stacks: Loose[];
  readonly #stackAt = new Map<number, ToldStack>();
  readonly #locationAt = new Map<number, ToldStack>();

  constructor(dictionary: Loose, frames: FrameTable, warnings: Warnings) {
    this.#frames = frames;
    this.#warnings = warnings;
    this.#texts = Array.isArray(dictionary.stringTable) ? dictionary.stringTable : [];
    this.#mappings = listOf(dictionary.mappingTable);
    this.#locations = listOf(dictionary.locationTable);
    this.#functions = listOf(dictionary.functionTable);
    this.#attributes = listOf(dictionary.attributeTable);
    this.#stacks = listOf(dictionary.stackTable);
  }

  /** A text; '' for one that is not in the table, which is counted. */
  text(place: unknown): string {
    const index = intOf(place);
    if (index !== 0 && !(index in this.#texts))
      this.#warnings.add('unknown-text', 'A name is not in the table of texts; it stands as empty.');
    return stringOf(this.#texts[index]);
  }

  /** Names and values that indices refer to. */
  *attributes(indices: unknown): Generator<[key: string, value: string]> {
    if (!Array.isArray(indices)) return;
    for (const index of indices) {
      const { keyStrindex, value, unitStrindex } = this.#attributes[intOf(index)] ?? {};
      const key = this.text(keyStrindex);
      if (key === '' || typeof value !== 'object' || value === null) continue;
      const unit = this.text(unitStrindex);
      yield [key, `${plain(value as Loose)}${unit ? ` ${unit}` : ''}`];
    }
  }

  stack(place: unknown): ToldStack {
    const index = intOf(place);
    const known = this.#stackAt.get(index);
    if (known) return known;
    const indices = this.#stacks[index]?.locationIndices;
    // The first location is the innermost.
    const locations = (Array.isArray(indices) ? indices : []).map((at) => this.#location(intOf(at)));
    if (index !== 0 && !this.#stacks[index])
      this.#warnings.add('unknown-location', 'A sample names a stack that is not in the profile.');
    const made = {
      frames: locations.toReversed().flatMap(({ frames }) => frames),
      line: locations[0]?.line ?? 0
    };
    this.#stackAt.set(index, made);
    return made;
  }

  #location(index: number): ToldStack {
    const known = this.#locationAt.get(index);
    if (known) return known;
    const row = this.#locations[index] as Loose | undefined;
    if (!row || index === 0)
      this.#warnings.add('unknown-location', 'A sample names a location that is not in the profile.');
    const [, type = ''] =
      [...this.attributes(row?.attributeIndices)].find(([key]) => key === FRAME_TYPE) ?? [];
    const whose = Object.hasOwn(KINDS, type) ? KINDS[type] : undefined;
    const lines = listOf(row?.lines);
    const frames =
      // The innermost of those the compiler put into their callers comes first.
      lines.length > 0
        ? lines.map((line) => this.#function(intOf(line.functionIndex), whose)).reverse()
        : [
            this.#frames.atAddress(
              intOf(row?.address),
              this.text(this.#mappings[intOf(row?.mappingIndex)]?.filenameStrindex),
              whose
            )
          ];
    const made = { frames, line: Math.max(0, intOf(lines[0]?.line)) };
    this.#locationAt.set(index, made);
    return made;
  }

  #function(index: number, whose: Whose | undefined): number {
    const row = this.#functions[index] as Loose | undefined;
    if (!row) {
      this.#warnings.add('unknown-function', 'A location names a function that is not in the profile.');
      return this.#frames.indexOf('(unknown)', '', 0, 0, NATIVE);
    }
    const name = this.text(row.nameStrindex) || this.text(row.systemNameStrindex) || '(anonymous)';
    const file = this.text(row.filenameStrindex);
    const line = Math.max(0, intOf(row.startLine));
    return this.#frames.indexOf(name, file, line, 0, whose ?? whoseAny(name, file));
  }
}

const FRAME_TYPE = 'profile.frame.type';

/** The value of an attribute as a text; '' for what is no single value. */
function plain(value: Loose): string {
  if (has(value, 'stringValue')) return stringOf(value.stringValue);
  if (has(value, 'boolValue')) return String(value.boolValue === true);
  if (has(value, 'intValue')) return String(intOf(value.intValue));
  return has(value, 'doubleValue') ? String(Number(value.doubleValue)) : '';
}
