import * as v from 'valibot';

/**
 * One parameter of the URL.
 * @property read checks the texts that stand under its name (none, one or several) and gives their value; whatever it refuses counts as not there
 * @property write the texts of a value; none for what is usual, which keeps links short
 */
export interface Param<T> {
  read: v.GenericSchema<string[], T>;
  write: (value: T) => string[];
  name?: string;
}
export type StateOf<P> = { [K in keyof P]: P[K] extends Param<infer T> ? T : never };

const first = v.pipe(
  v.array(v.string()),
  v.transform((texts) => texts[0] ?? '')
);
const otherwise = <T>(schema: v.GenericSchema<string[], T>, usual: T): v.GenericSchema<string[], T> =>
  v.fallback(schema, () => usual);

/** Any text; '' where there is none. @param name in the URL, where it differs from the member's */
export const text = (name?: string): Param<string> => ({
  read: first,
  write: (value) => (value === '' ? [] : [value]),
  name
});

/** Several texts, in their order. */
export const texts = (name?: string): Param<string[]> => ({
  read: v.array(v.string()),
  write: (value) => value,
  name
});

/** One of some names; the usual one does not stand in the URL. */
export const oneOf = <T extends string>(known: readonly T[], usual: NoInfer<T>, name?: string): Param<T> => ({
  read: otherwise(v.pipe(first, v.picklist(known)) as v.GenericSchema<string[], T>, usual),
  write: (value) => (value === usual ? [] : [value]),
  name
});

/** An integer from 0 on; the usual one does not stand in the URL. */
export const integer = (usual: number, name?: string): Param<number> => ({
  read: otherwise(v.pipe(first, v.regex(/^\d{1,15}$/), v.transform(Number)), usual),
  write: (value) => (value === usual || value < 0 ? [] : [String(value)]),
  name
});

/** Yes or no; `yes` is how a yes stands in the URL. */
export const flag = (name?: string, yes = '1'): Param<boolean> => ({
  read: v.pipe(
    first,
    v.transform((value) => value === yes)
  ),
  write: (value) => (value ? [yes] : []),
  name
});

export interface ParamSet<S> {
  read: (query: URLSearchParams) => S;
  /** The query with a state written into it; what else stands there stays. */
  write: (query: URLSearchParams, state: S) => URLSearchParams;
}

/**
 * What a view keeps in the URL, so that a link shows the same.
 * @example
 * const PARAMS = defineParams({ show: oneOf(SHOWS, 'waits'), thread: integer(-1) });
 * type State = StateOfSet<typeof PARAMS>;
 */
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- each member has a type of its own
export function defineParams<P extends Record<string, Param<any>>>(params: P): ParamSet<StateOf<P>> {
  const all = Object.entries(params).map(([key, param]) => ({ key, param, name: param.name ?? key }));
  return {
    read: (query) =>
      Object.fromEntries(
        all.map(({ key, param, name }) => [key, v.parse(param.read, query.getAll(name))])
      ) as StateOf<P>,
    write: (query, state) => {
      const next = new URLSearchParams(query);
      for (const { key, param, name } of all) {
        next.delete(name);
        for (const value of param.write(state[key])) next.append(name, value);
      }
      return next;
    }
  };
}
export type StateOfSet<Set> = Set extends ParamSet<infer S> ? S : never;
