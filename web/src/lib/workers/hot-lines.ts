import type { SourceLine } from '@tromix/core/findings/source-line';
import type { Profile } from '@tromix/core/profile/model';

/** From this part of all line ticks on the text of a line is asked for. */
const HOT_SHARE = 0.005;
const MOST_LINES = 200;

/** Lines at which many samples are, heaviest first. */
export function hotLines({ ticks, frames, nodeFrame }: Profile): { file: string; line: number }[] {
  if (!ticks) return [];
  const places = new Map<string, { file: string; line: number; ticks: number }>();
  let all = 0;
  for (let node = 0; node < nodeFrame.length; node++) {
    const { file } = frames[nodeFrame[node]];
    for (let i = ticks.start[node]; i < ticks.start[node + 1]; i++) {
      all += ticks.ticks[i];
      if (file === '') continue;
      const key = `${ticks.line[i]} ${file}`;
      const place = places.get(key) ?? { file, line: ticks.line[i], ticks: 0 };
      place.ticks += ticks.ticks[i];
      places.set(key, place);
    }
  }
  return [...places.values()]
    .filter((place) => place.ticks >= HOT_SHARE * all)
    .sort((a, b) => b.ticks - a.ticks)
    .slice(0, MOST_LINES)
    .map(({ file, line }) => ({ file, line }));
}

/**
 * The text of lines, where a source map carried it or a source folder has it.
 * @param carried texts by file.
 * @param fetched texts of lines by their place, as the server gave them.
 */
export function sourceLines(
  carried: ReadonlyMap<string, string>,
  fetched: readonly { file: string; line: number; text: string }[]
): SourceLine {
  const lines = new Map<string, string[]>();
  const linesOf = (file: string): string[] | undefined => {
    const text = carried.get(file);
    if (text !== undefined && !lines.has(file)) lines.set(file, text.split('\n'));
    return lines.get(file);
  };
  const known = new Map(fetched.map(({ file, line, text }) => [`${line} ${file}`, text]));
  return (file, line) => linesOf(file)?.[line - 1] ?? known.get(`${line} ${file}`) ?? null;
}
