import type { InStatement, InValue } from '@libsql/client';
import type { Frame } from '@tromix/core/profile/model';
import type { CondensedProfile } from '@tromix/core/profile/sums/condense';
import { writeStackWeights } from '@tromix/core/profile/sums/stack-weights';
import type { EndpointSums, MergedSlice } from '@tromix/core/profile/sums/merge-slices';
import { bulkInsert, jsonRows, oneOf } from '../db/bulk';
import { jsonOf, type Database } from '../db/database';
import type { profileSlices } from '../db/schema';
import type { Dictionary } from './dictionary';

/** A recording that was summed up. */
export interface SummedProfile {
  /** The evidence it was made of. */
  source: string;
  service: string;
  host: string;
  release: string;
  pid: number;
  valueType: 'cpu' | 'wall';
  /** How many requests of its time were known. */
  requests: number;
  condensed: CondensedProfile;
}

/** Beyond these numbers of one service new functions are taken together, and new stacks end at their callers. */
export const MAX_FRAMES = 50_000;
export const MAX_STACKS = 300_000;
const OTHER_FUNCTIONS: Frame = {
  name: '(other functions)',
  file: '',
  line: 0,
  column: 0,
  package: '',
  kind: 'app'
};
/** Services whose stacks are remembered between recordings. */
const MOST_REMEMBERED = 4;

/** The stacks of one service by what they stand in and their innermost call. */
interface KnownStacks {
  numbers: Map<number, number>;
  frames: number;
}

/** Frames of a stack and its parent are both far below 2^26. */
const keyOf = (parent: number, frame: number): number => parent * 2 ** 26 + frame;

/** Stores sums of recordings: the one who writes numbers the stacks. */
export class ProfileSums {
  readonly #database: Database;
  readonly #dictionary: Dictionary;
  readonly #known = new Map<number, KnownStacks>();

  constructor(database: Database, dictionary: Dictionary) {
    this.#database = database;
    this.#dictionary = dictionary;
  }

  /** Statements that put the sums of a recording into the place of its earlier ones. Functions and stacks are stored at once. */
  async statements(profile: SummedProfile): Promise<InStatement[]> {
    const { condensed } = profile;
    const place = this.#dictionary.place(profile, condensed.slices[0]?.startUs ?? 0);
    await this.#dictionary.learn(this.#database);
    const stacks = await this.#numbersOf(place.service.id, condensed);
    let sliceId = await this.#highest('profile_slices');
    return [
      ...removeSums(profile.source),
      ...condensed.slices.flatMap((slice): InStatement[] => [
        sliceRow(++sliceId, {
          ...slice,
          valueType: profile.valueType,
          serviceId: place.service.id,
          hostId: place.host.id,
          releaseId: place.release.id,
          pid: profile.pid,
          lengthUs: slice.spanUs,
          source: profile.source,
          weights: numbered(slice.weights, stacks)
        }),
        ...slice.endpoints.map((share) =>
          endpointSliceRow(sliceId, { ...share, weights: numbered(share.weights, stacks) })
        )
      ]),
      condensedNote(profile.source, profile.requests, '')
    ];
  }

  async #highest(table: string): Promise<number> {
    const { rows } = await this.#database.query(`SELECT coalesce(max(id), 0) FROM ${table}`);
    return Number(rows[0][0]);
  }

  /** @returns the number of each stack */
  async #numbersOf(service: number, condensed: CondensedProfile): Promise<number[]> {
    const known = await this.#stacksOf(service);
    const frames = await this.#framesOf(service, known, condensed.frames);
    let next = (await this.#highest('profile_stacks')) + 1;
    const fresh: [number, number, number, number][] = [];
    const numbers: number[] = [];
    condensed.stackFrame.forEach((frame, i) => {
      const up = condensed.stackParent[i];
      const parent = up < 0 ? 0 : numbers[up];
      const key = keyOf(parent, frames[frame]);
      let number = known.numbers.get(key);
      if (number === undefined) {
        // Outermost calls are as few as functions.
        if (parent > 0 && known.numbers.size >= MAX_STACKS) number = parent;
        else {
          number = next++;
          known.numbers.set(key, number);
          fresh.push([number, service, parent, frames[frame]]);
        }
      }
      numbers.push(number);
    });
    if (fresh.length > 0)
      try {
        await this.#database.write([
          bulkInsert('INSERT', 'profile_stacks', ['id', 'service_id', 'parent', 'frame_id'], fresh)
        ]);
      } catch (cause) {
        // What is remembered was not stored.
        this.#known.delete(service);
        throw cause;
      }
    return numbers;
  }

  async #stacksOf(service: number): Promise<KnownStacks> {
    const remembered = this.#known.get(service);
    if (remembered) return remembered;
    if (this.#known.size >= MOST_REMEMBERED) this.#known.delete(this.#known.keys().next().value!);
    const rows = await jsonOf<[number, number, number]>(
      this.#database,
      'SELECT json_group_array(json_array(id, parent, frame_id)) FROM profile_stacks WHERE service_id = ?',
      [service]
    );
    const [frames] = await jsonOf<number>(
      this.#database,
      'SELECT json_array(count(*)) FROM profile_frames WHERE service_id = ?',
      [service]
    );
    const known = { numbers: new Map(rows.map(([id, parent, frame]) => [keyOf(parent, frame), id])), frames };
    this.#known.set(service, known);
    return known;
  }

  /** @returns the number of each function */
  async #framesOf(service: number, known: KnownStacks, frames: readonly Frame[]): Promise<number[]> {
    const named = await this.#frameNumbers(service, frames);
    const missing = frames.filter((_, i) => named[i] === 0);
    if (missing.length === 0) return named;
    const room = Math.max(0, MAX_FRAMES - known.frames);
    const stored = missing.length > room ? [...missing.slice(0, room), OTHER_FUNCTIONS] : missing;
    await this.#database.write([
      bulkInsert(
        'INSERT OR IGNORE',
        'profile_frames',
        ['service_id', 'name', 'file', 'line', 'col', 'package', 'kind'],
        stored.map((frame) => [
          service,
          frame.name,
          frame.file,
          frame.line,
          frame.column,
          frame.package,
          frame.kind
        ])
      )
    ]);
    known.frames += stored.length;
    const numbers = await this.#frameNumbers(service, [...frames, OTHER_FUNCTIONS]);
    const other = numbers.pop()!;
    return numbers.map((number) => number || other);
  }

  /** 0 for those that have none. */
  async #frameNumbers(service: number, frames: readonly Frame[]): Promise<number[]> {
    const numbers = new Array<number>(frames.length).fill(0);
    // In this order: the other way round each function of the store would be held against each of the list.
    const found = await jsonOf<[number, number]>(
      this.#database,
      `SELECT json_group_array(json_array(j.key, f.id)) FROM json_each(?2) j CROSS JOIN profile_frames f ON f.service_id = ?1 AND f.name = j.value->>0
        AND f.file = j.value->>1 AND f.line = j.value->>2 AND f.col = j.value->>3`,
      [service, jsonRows(frames.map(({ name, file, line, column }) => [name, file, line, column]))]
    );
    for (const [place, id] of found) numbers[place] = id;
    return numbers;
  }
}

/** Weights by the numbers of the store; stacks that ended at their callers add up there. */
function numbered(weights: ReadonlyMap<number, number>, numbers: readonly number[]): Uint8Array {
  const sums = new Map<number, number>();
  for (const [stack, us] of weights) sums.set(numbers[stack], (sums.get(numbers[stack]) ?? 0) + us);
  return writeStackWeights(sums);
}

type SliceValues = Omit<typeof profileSlices.$inferInsert, 'id' | 'weights'> & { weights: Uint8Array };

const sliceRow = (id: number, slice: SliceValues): InStatement => ({
  sql: `INSERT INTO profile_slices (id, value_type, service_id, host_id, release_id, pid, start_us, length_us, span_us, samples, busy_us, idle_us, source, weights)
    VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  args: [
    id,
    slice.valueType,
    slice.serviceId,
    slice.hostId,
    slice.releaseId,
    slice.pid,
    slice.startUs,
    slice.lengthUs,
    slice.spanUs,
    slice.samples,
    slice.busyUs,
    slice.idleUs,
    slice.source,
    slice.weights
  ]
});

const endpointSliceRow = (
  slice: number,
  { endpoint, requests, busyUs, sharedUs, weights }: EndpointSums
): InStatement => ({
  sql: 'INSERT INTO profile_endpoint_slices (slice_id, endpoint_id, requests, busy_us, shared_us, weights) VALUES (?, ?, ?, ?, ?, ?)',
  args: [slice, endpoint, requests, busyUs, sharedUs, weights]
});

const removeEndpointSlices = (slices: string, ...args: InValue[]): InStatement => ({
  sql: `DELETE FROM profile_endpoint_slices WHERE slice_id IN (${slices})`,
  args
});

export const PROFILE_SUM_CHANGES = {
  /** A profile without sums, and why. */
  noteCondensed: (evidenceId: string, requests: number, message: string): InStatement[] => [
    ...removeSums(evidenceId),
    condensedNote(evidenceId, requests, message)
  ],
  /** What a profile came to stays when its file goes. */
  keepProfileSums: (evidenceId: string): InStatement[] => [
    { sql: "UPDATE profile_slices SET source = '' WHERE source = ?", args: [evidenceId] }
  ],
  /** Puts one slice, which takes the number of the first, into the place of some. */
  putSlicesTogether: (
    slices: readonly number[],
    of: Pick<SliceValues, 'valueType' | 'serviceId' | 'hostId' | 'releaseId'>,
    merged: MergedSlice
  ): InStatement[] => {
    const ids = JSON.stringify(slices);
    return [
      removeEndpointSlices('SELECT value FROM json_each(?)', ids),
      { sql: `DELETE FROM profile_slices WHERE ${oneOf('id')}`, args: [ids] },
      sliceRow(slices[0], { ...of, ...merged, pid: 0, source: '' }),
      ...merged.endpoints.map((share) => endpointSliceRow(slices[0], share))
    ];
  },
  removeOldSlices: (beforeUs: number): InStatement[] => [
    removeEndpointSlices("SELECT id FROM profile_slices WHERE source = '' AND start_us < ?", beforeUs),
    { sql: "DELETE FROM profile_slices WHERE source = '' AND start_us < ?", args: [beforeUs] }
  ]
};

/** Notes that a recording was looked at. */
const condensedNote = (evidenceId: string, requests: number, message: string): InStatement => ({
  sql: 'INSERT OR REPLACE INTO profile_condensed (evidence_id, requests, at_us, message) VALUES (?, ?, ?, ?)',
  args: [evidenceId, requests, Date.now() * 1000, message]
});

/** Takes the sums of a recording away. */
export const removeSums = (source: string): InStatement[] => [
  removeEndpointSlices('SELECT id FROM profile_slices WHERE source = ?', source),
  { sql: 'DELETE FROM profile_slices WHERE source = ?', args: [source] },
  { sql: 'DELETE FROM profile_condensed WHERE evidence_id = ?', args: [source] }
];
