import type { Profile } from '@tromix/core/profile/model';
import { hotLines } from './hot-lines';

/** The text of the hot lines of files that no source map carried. */
export async function fetchedLines(
  of: Profile,
  carried: ReadonlyMap<string, string>
): Promise<{ file: string; line: number; text: string }[]> {
  const places = hotLines(of).filter(({ file }) => !carried.has(file));
  if (places.length === 0) return [];
  const response = await fetch('/api/source/lines', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(places)
  });
  return response.ok ? ((await response.json()) as { file: string; line: number; text: string }[]) : [];
}

/** More built files than this are not asked for their maps. */
const MAX_MAPS = 40;

/** The source maps of the built files a profile names. */
export async function sourceMaps({ frames }: Pick<Profile, 'frames'>): Promise<Map<string, string>> {
  const built = new Set(
    frames.flatMap(({ kind, file }) =>
      (kind === 'app' || kind === 'dependency') && /\.[cm]?js$/.test(file) ? [file] : []
    )
  );
  const maps = new Map<string, string>();
  await Promise.all(
    [...built].slice(0, MAX_MAPS).map(async (file) => {
      const response = await fetch(`/api/source/map?file=${encodeURIComponent(file)}`);
      if (response.status === 200) maps.set(file, await response.text());
    })
  );
  return maps;
}
