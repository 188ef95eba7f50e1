import { select } from '../db/reader';

/** A scope under a name. */
export interface SavedScope {
  id: number;
  name: string;
  /** Query of an address. */
  query: string;
}

export const savedScopes = (): Promise<SavedScope[]> =>
  select<SavedScope>('SELECT id, name, query FROM saved_scopes ORDER BY name');
