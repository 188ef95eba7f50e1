import type { InStatement } from '@libsql/client';
import { jsonOf, type Database } from '../db/database';

export type AsideKind = 'trace' | 'batch' | 'file' | 'dump' | 'recording';

/** What ends its thread so often is not tried again by itself. */
export const MAX_TRIES = 2;

/** Something that was set aside, or will be at the next time. */
export interface Aside {
  kind: AsideKind;
  id: string;
  name: string;
  reason: string;
}

const keyOf = (kind: AsideKind, id: string): string => `${kind} ${id}`;

/** What ended the thread that worked on it. Kept in the database, so that a restart does not begin anew. */
export class SetAside {
  readonly #database: Database;
  readonly #tries = new Map<string, number>();
  readonly #aside = new Set<string>();

  private constructor(database: Database) {
    this.#database = database;
  }

  static async load(database: Database): Promise<SetAside> {
    const loaded = new SetAside(database);
    const rows = await jsonOf<[AsideKind, string, number, number]>(
      database,
      'SELECT json_group_array(json_array(kind, id, tries, aside)) FROM set_aside'
    );
    for (const [kind, id, tries, aside] of rows) {
      loaded.#tries.set(keyOf(kind, id), tries);
      if (aside === 1) loaded.#aside.add(keyOf(kind, id));
    }
    return loaded;
  }

  has(kind: AsideKind, id: string): boolean {
    return this.#aside.has(keyOf(kind, id));
  }

  /**
   * Notes that a thread ended over something.
   * @param atOnce it will fail again in the same way: it is set aside without a second try.
   * @returns whether it is set aside now.
   */
  async note({ kind, id, name, reason }: Aside, atOnce = false): Promise<boolean> {
    const key = keyOf(kind, id);
    const tries = (this.#tries.get(key) ?? 0) + 1;
    const aside = atOnce || tries >= MAX_TRIES;
    const statements: InStatement[] = [
      {
        sql: `INSERT OR REPLACE INTO set_aside (kind, id, name, reason, tries, aside, at_us) VALUES (?, ?, ?, ?, ?, ?, ?)`,
        args: [kind, id, name, reason, tries, aside ? 1 : 0, Date.now() * 1000]
      }
    ];
    if (aside && kind === 'trace')
      statements.push({ sql: 'DELETE FROM pending_traces WHERE trace_id = ?', args: [id] });
    await this.#database.write(statements);
    this.#tries.set(key, tries);
    if (aside) this.#aside.add(key);
    return aside;
  }

  /** Lets something be tried again. @param before further statements of the same transaction. */
  async forget(kind: AsideKind, id: string, before: InStatement[] = []): Promise<void> {
    await this.#database.write([
      ...before,
      { sql: 'DELETE FROM set_aside WHERE kind = ? AND id = ?', args: [kind, id] }
    ]);
    this.#tries.delete(keyOf(kind, id));
    this.#aside.delete(keyOf(kind, id));
  }
}
