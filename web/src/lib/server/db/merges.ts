import { jsonOf, type Database } from './database';

/** Groups of failures that somebody merged: each into the one that stands for it. */
export class Merges {
  readonly #into: ReadonlyMap<number, number>;

  constructor(pairs: readonly [groupId: number, intoId: number][]) {
    this.#into = new Map(pairs);
  }

  /** The group that stands for one. */
  of = (id: number): number => this.#into.get(id) ?? id;

  /** A group and those that were merged into it. */
  membersOf = (id: number): number[] => [
    id,
    ...[...this.#into].flatMap(([member, into]) => (into === id ? [member] : []))
  ];
}

export const readMerges = async (database: Database): Promise<Merges> =>
  new Merges(
    await jsonOf<[number, number]>(
      database,
      'SELECT json_group_array(json_array(group_id, into_id)) FROM failure_merges'
    )
  );
