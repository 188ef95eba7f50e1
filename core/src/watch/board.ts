import * as v from 'valibot';
import { Watched } from './watched';

/** Version of the form that is written, and the newest that is read. */
export const BOARD_VERSION = 1;

const name = v.pipe(
  v.string(),
  v.trim(),
  v.minLength(1, 'expected a name'),
  v.maxLength(120, 'expected at most 120 characters')
);

/** A chart of a board: one figure, or several of one unit, over the board's time axis. */
export const BoardChart = v.strictObject({
  /** The same on every board it is on. */
  id: v.pipe(v.string(), v.regex(/^[\w-]{1,40}$/, 'expected an id of letters, digits, _ and -')),
  /** '' for the words of its figures. */
  title: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(200)), ''),
  figures: v.pipe(
    v.array(Watched),
    v.minLength(1, 'expected a figure'),
    v.maxLength(8, 'expected at most 8 figures')
  ),
  /** Half or all of the width. */
  wide: v.optional(v.boolean(), false)
});
export type BoardChart = v.InferOutput<typeof BoardChart>;

/** Most charts of one board. */
export const MOST_CHARTS = 40;

const charts = v.pipe(
  v.array(BoardChart),
  v.maxLength(MOST_CHARTS, `expected at most ${MOST_CHARTS} charts`)
);

/** What is on a board, in its order. */
export const Board = v.strictObject({ name, charts });
export type Board = v.InferOutput<typeof Board>;

/** A board as a file. */
export const BoardFile = v.object({
  tromixBoard: v.pipe(
    v.number('expected the version of the form'),
    v.integer(),
    v.minValue(1),
    v.maxValue(BOARD_VERSION, `it is of a newer version; this server reads up to ${BOARD_VERSION}`)
  ),
  name,
  charts
});
export type BoardFile = v.InferOutput<typeof BoardFile>;

/** A board as it is written into a file. */
export const boardFile = ({ name: named, charts: of }: Board): BoardFile => ({
  tromixBoard: BOARD_VERSION,
  name: named,
  charts: of
});

/** Reads a board from a file. A newer version is named as such before anything else that may be new in it. */
export function readBoard(text: string): { ok: true; board: Board } | { ok: false; message: string } {
  let content: unknown;
  try {
    content = JSON.parse(text);
  } catch (cause) {
    return { ok: false, message: `It is not JSON: ${(cause as Error).message}.` };
  }
  const version = (content as { tromixBoard?: unknown } | null)?.tromixBoard;
  if (version === undefined)
    return {
      ok: false,
      message: 'It is not a board: expected an object with “tromixBoard”, “name” and “charts”.'
    };
  if (typeof version === 'number' && version > BOARD_VERSION)
    return {
      ok: false,
      message: `It is a board of version ${version}; this server reads up to ${BOARD_VERSION}. Export it from the server it comes from in an older form, or update this one.`
    };
  const parsed = v.safeParse(BoardFile, content);
  if (!parsed.success) {
    const [issue] = parsed.issues;
    const where = issue.path?.map(({ key }) => String(key)).join('.') ?? '';
    return { ok: false, message: `It is not a board: ${where ? `${where}: ` : ''}${issue.message}.` };
  }
  return { ok: true, board: { name: parsed.output.name, charts: parsed.output.charts } };
}
