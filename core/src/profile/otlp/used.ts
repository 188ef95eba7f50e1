import { intOf, listOf, type Loose } from '../../formats/otlp/values';

/** Of no table: what names it is counted as not told where the profile is read. */
const NOWHERE = 2 ** 31 - 1;

/** The entries of one table that are used, numbered anew; entry 0 stands for none. */
class UsedTable<T> {
  readonly entries: T[];
  readonly #all: readonly T[];
  readonly #rewrite: (entry: T) => T;
  readonly #numbers = new Map<number, number>([[0, 0]]);

  constructor(all: readonly T[], none: T, rewrite: (entry: T) => T) {
    this.#all = all;
    this.#rewrite = rewrite;
    this.entries = [none];
  }

  /** The new number of an entry. */
  readonly use = (told: unknown): number => {
    const index = intOf(told);
    const known = this.#numbers.get(index);
    if (known !== undefined) return known;
    if (!(index in this.#all)) return NOWHERE;
    const entry = this.#rewrite(this.#all[index]);
    this.#numbers.set(index, this.entries.length);
    return this.entries.push(entry) - 1;
  };

  readonly useAll = (indices: unknown): number[] => (Array.isArray(indices) ? indices.map(this.use) : []);
}

/**
 * A profile with a dictionary of its own, which holds what it refers to alone: a message of many processes has one for all of them.
 * Of the dictionary what is read stays.
 */
export function withUsed(profile: Loose, dictionary: Loose): { profile: Loose; dictionary: Loose } {
  const all = Array.isArray(dictionary.stringTable) ? (dictionary.stringTable as unknown[]) : [];
  const texts = new UsedTable<unknown>(all, '', (text) => text);
  const table = (name: string, rewrite: (row: Loose) => Loose): UsedTable<Loose> =>
    new UsedTable(listOf(dictionary[name]), {}, rewrite);
  const attributes = table('attributeTable', ({ keyStrindex, unitStrindex, value }) => ({
    keyStrindex: texts.use(keyStrindex),
    unitStrindex: texts.use(unitStrindex),
    value
  }));
  const mappings = table('mappingTable', ({ filenameStrindex }) => ({
    filenameStrindex: texts.use(filenameStrindex)
  }));
  const functions = table('functionTable', (row) => ({
    nameStrindex: texts.use(row.nameStrindex),
    systemNameStrindex: texts.use(row.systemNameStrindex),
    filenameStrindex: texts.use(row.filenameStrindex),
    startLine: row.startLine
  }));
  const locations = table('locationTable', (row) => ({
    mappingIndex: mappings.use(row.mappingIndex),
    address: row.address,
    lines: listOf(row.lines).map(({ functionIndex, line }) => ({
      functionIndex: functions.use(functionIndex),
      line
    })),
    attributeIndices: attributes.useAll(row.attributeIndices)
  }));
  const stacks = table('stackTable', ({ locationIndices }) => ({
    locationIndices: locations.useAll(locationIndices)
  }));
  const type = (told: unknown): Loose => {
    const { typeStrindex, unitStrindex } = (told ?? {}) as Loose;
    return { typeStrindex: texts.use(typeStrindex), unitStrindex: texts.use(unitStrindex) };
  };
  const { timeUnixNano, durationNano, period } = profile;
  return {
    profile: {
      sampleType: type(profile.sampleType),
      periodType: type(profile.periodType),
      ...{ timeUnixNano, durationNano, period },
      samples: listOf(profile.samples).map(
        ({ stackIndex, attributeIndices, values, timestampsUnixNano }) => ({
          stackIndex: stacks.use(stackIndex),
          attributeIndices: attributes.useAll(attributeIndices),
          ...{ values, timestampsUnixNano }
        })
      )
    },
    dictionary: {
      stringTable: texts.entries,
      attributeTable: attributes.entries,
      mappingTable: mappings.entries,
      functionTable: functions.entries,
      locationTable: locations.entries,
      stackTable: stacks.entries
    }
  };
}
