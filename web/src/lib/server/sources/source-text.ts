import { readFile, realpath, stat } from 'node:fs/promises';
import path from 'node:path';
import { ownersOf } from './code-owners';
import { timesTested } from './line-coverage';
import { originalPositionFor, sourceContentFor, TraceMap } from '@jridgewell/trace-mapping';

/** Lines around a place in a source file. */
export interface SourceText {
  /** The file as it is shown: the original where a source map names it. */
  file: string;
  /** The line asked for, counted from 1. */
  line: number;
  /** Line number of the first text line. */
  from: number;
  lines: string[];
  /** Absolute path for the developer's editor; '' where the text came out of a source map. */
  path: string;
}

/** What the folder of a source says of a line beside its text. */
export interface AboutLine {
  /** By its `CODEOWNERS` file; null where that does not tell. */
  owners: string[] | null;
  /** How often tests ran the line, by its `lcov.info`; null where that does not tell. */
  tested: number | null;
}

export type SourceAnswer = { ok: true; value: SourceText & AboutLine } | { ok: false; message: string };

const AROUND = 7;
const MAX_BYTES = 4 * 1024 * 1024;

/**
 * Reads the text around a line from the allowed folders. The path is resolved, symbolic links too, and must stay inside one of them.
 * A file that was built and has a source map beside it is mapped back to its original.
 * @param file as it was recorded: relative to one of the folders, or absolute inside one, or a file URL.
 */
export async function sourceText(
  folders: readonly string[],
  file: string,
  line: number
): Promise<SourceAnswer> {
  const place = await findSource(folders, file);
  if ('message' in place) return { ok: false, message: place.message };
  const { folder, found } = place;
  const mapped = await mappedText(folder, found, line);
  const shown = mapped ?? {
    ...around(await readFile(found, 'utf8'), line),
    file: path.relative(await realpath(folder), found),
    path: found
  };
  return { ok: true, value: { ...shown, ...(await aboutLine(folder, shown)) } };
}

/** Where folders tell of their sources (common practice of forges, and of tools that measure coverage). */
const OWNERS_FILES = ['CODEOWNERS', 'docs/CODEOWNERS'];
const COVERAGE_FILES = ['coverage/lcov.info', 'lcov.info'];

async function aboutLine(folder: string, { file, line }: SourceText): Promise<AboutLine> {
  const relative = file.replaceAll('\\', '/').replace(/^(?:\.\.?\/)+/, '');
  const [codeOwners, lcov] = await Promise.all([
    firstText(folder, OWNERS_FILES),
    firstText(folder, COVERAGE_FILES)
  ]);
  return {
    owners: codeOwners === null ? null : ownersOf(codeOwners, relative),
    tested: lcov === null ? null : timesTested(lcov, relative, line)
  };
}

async function firstText(folder: string, names: readonly string[]): Promise<string | null> {
  for (const name of names) {
    const found = await insideOf(folder, name);
    if (found) return readFile(found, 'utf8');
  }
  return null;
}

/** The whole text of a file in one of the allowed folders. */
export async function wholeSource(
  folders: readonly string[],
  file: string
): Promise<{ ok: true; text: string; path: string } | { ok: false; message: string }> {
  const place = await findSource(folders, file);
  if ('message' in place) return { ok: false, message: place.message };
  return { ok: true, text: await readFile(place.found, 'utf8'), path: place.found };
}

/** Longer lines are machine-made. */
const MAX_LINE = 500;

/** The text of single lines; those of files that are not in one of the allowed folders are left out. */
export async function textOfLines(
  folders: readonly string[],
  places: readonly { file: string; line: number }[]
): Promise<{ file: string; line: number; text: string }[]> {
  const files = new Map<string, string[]>();
  for (const file of new Set(places.map((place) => place.file))) {
    const whole = await wholeSource(folders, file);
    files.set(file, whole.ok ? whole.text.split('\n') : []);
  }
  return places.flatMap(({ file, line }) => {
    const text = files.get(file)?.[line - 1];
    return text === undefined || text.length > MAX_LINE ? [] : [{ file, line, text }];
  });
}

const INLINE_MAP = /\/\/[#@] sourceMappingURL=data:application\/json[^,]*;base64,([A-Za-z0-9+/=]+)\s*$/;

/** The source map of a built file in one of the allowed folders: beside it, or in its last line; null where there is none. */
export async function sourceMapOf(folders: readonly string[], file: string): Promise<string | null> {
  const place = await findSource(folders, file);
  if ('message' in place) return null;
  const beside = await insideOf(place.folder, `${place.found}.map`);
  if (beside) return readFile(beside, 'utf8');
  const inline = INLINE_MAP.exec(await readFile(place.found, 'utf8'));
  return inline ? Buffer.from(inline[1], 'base64').toString('utf8') : null;
}

async function findSource(
  folders: readonly string[],
  file: string
): Promise<{ folder: string; found: string } | { message: string }> {
  if (folders.length === 0)
    return { message: 'No source folder is configured. Name them in the setting TROMIX_SOURCES.' };
  const wanted = file.replace(/^file:\/\//, '').replace(/[?#].*$/, '');
  if (wanted === '' || wanted.includes('\0')) return { message: 'That is no path of a file.' };
  for (const folder of folders) {
    for (const candidate of [wanted, ...published(wanted)]) {
      const found = await insideOf(folder, candidate);
      if (found) return { folder, found };
    }
  }
  return { message: `${file} is in none of the source folders.` };
}

/**
 * A program seldom runs where its sources lie here: the ends of a recorded path are tried as well, longest first, though
 * never the bare file name, which could be of another folder.
 */
function published(wanted: string): string[] {
  const parts = wanted.split('/').filter(Boolean);
  return Array.from({ length: Math.max(0, parts.length - 2) }, (_, i) => parts.slice(i + 1).join('/'));
}

/**
 * Files that hold secrets by common practice, wherever they lie in a source folder: hidden files and folders (`.env`, `.git`, `.npmrc`, `.ssh`), keys and
 * key stores, credentials, and databases. They are never shown. The list stands in docs/security.md too.
 */
const SECRET_FILE =
  /^(?:\..*|.*\.env|env\..*|.*\.(?:pem|key|p8|p12|pfx|jks|jceks|keystore|truststore|kdbx?|ppk|asc|gpg|pgp|crt|cer|der|ovpn|sqlite3?|db|tfstate(?:\..*)?|htpasswd)|id_(?:rsa|dsa|ecdsa|ed25519)(?:[._-].*)?|(?:.*[._-])?(?:credentials?|secrets?|passwords?|passwd|service[._-]?account)(?:\.(?:json|ya?ml|txt|ini|toml|properties|xml|conf|cfg))?|kubeconfig|authorized_keys|known_hosts)$/i;

/** True for a path that leads to a file, or through a folder, whose name says that it holds secrets. */
export const holdsSecrets = (relative: string): boolean =>
  relative
    .split(/[\\/]/)
    .some((part) => part !== '' && part !== '.' && part !== '..' && SECRET_FILE.test(part));

/** The real path of a file inside a folder; null where it is none, leads out, or holds secrets by its name. */
async function insideOf(folder: string, wanted: string): Promise<string | null> {
  try {
    const root = await realpath(folder);
    const found = await realpath(path.resolve(root, wanted));
    if (!found.startsWith(root + path.sep)) return null;
    // By the name it is asked for as well as by the one a link leads to.
    if (holdsSecrets(path.relative(root, found)) || holdsSecrets(path.basename(wanted))) return null;
    const { size } = await stat(found);
    const regular = (await stat(found)).isFile();
    return regular && size <= MAX_BYTES ? found : null;
  } catch {
    return null;
  }
}

function around(text: string, line: number): Pick<SourceText, 'line' | 'from' | 'lines'> {
  const all = text.split(/\r?\n/);
  const from = Math.max(1, line - AROUND);
  return { line, from, lines: all.slice(from - 1, line + AROUND) };
}

/** The original of a built file's line; null without a source map that names it. */
async function mappedText(folder: string, built: string, line: number): Promise<SourceText | null> {
  if (!/\.[cm]?js$/.test(built)) return null;
  const mapFile = await insideOf(folder, `${built}.map`);
  if (!mapFile) return null;
  let map: TraceMap;
  try {
    map = new TraceMap(await readFile(mapFile, 'utf8'));
  } catch {
    return null;
  }
  // The column was not recorded: the first mapping of the line stands for it.
  const original = originalPositionFor(map, { line, column: 0, bias: 1 });
  if (original.source === null || original.line === null) return null;
  const content = sourceContentFor(map, original.source);
  if (content !== null) return { ...around(content, original.line), file: original.source, path: '' };
  const file = await insideOf(folder, path.resolve(path.dirname(mapFile), original.source));
  if (!file) return null;
  return {
    ...around(await readFile(file, 'utf8'), original.line),
    file: path.relative(folder, file),
    path: file
  };
}
