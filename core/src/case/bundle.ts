import * as v from 'valibot';
import { Case } from './case';

/** Version of the bundle's layout that is written, and the newest that is read. */
export const BUNDLE_VERSION = 1;

const sha256 = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/));
const label = v.pipe(v.string(), v.maxLength(1000));

/** `manifest.json` of a bundle: a zip of open files. */
export const BundleManifest = v.object({
  tromixBundle: v.pipe(v.number(), v.integer(), v.minValue(1)),
  madeAtUs: v.pipe(v.number(), v.integer(), v.minValue(0)),
  case: Case,
  /** Traces as OTLP JSON, one object a line. */
  traces: v.pipe(
    v.array(v.pipe(v.string(), v.regex(/^traces\/[\w.-]{1,80}\.otlp\.json$/))),
    v.maxLength(1000)
  ),
  /** Evidence, each file under `evidence/` by the SHA-256 of its content. */
  files: v.pipe(
    v.array(
      v.object({
        sha256,
        name: label,
        service: label,
        host: label,
        release: label,
        pid: v.pipe(v.number(), v.integer(), v.minValue(0)),
        startedAtUs: v.nullable(v.pipe(v.number(), v.integer()))
      })
    ),
    v.maxLength(1000)
  )
});
export type BundleManifest = v.InferOutput<typeof BundleManifest>;

/** Most entries of a bundle, bytes of all together, and how many times as long as its packed bytes an entry may become. */
export const BUNDLE_LIMITS = {
  entries: 3000,
  bytes: 8 * 1024 ** 3,
  ratio: 400,
  manifestBytes: 64 * 1024 * 1024
};

/** Paths that a bundle may hold: no folders beside its own, nothing that leads out of it. */
const PATHS =
  /^(?:manifest\.json|figures\.csv|brief\.(?:md|html)|traces\/[\w.-]{1,80}\.otlp\.json|evidence\/[0-9a-f]{64})$/;

/** An entry of a zip as its directory tells it. */
export interface ZipEntry {
  path: string;
  packedBytes: number;
  bytes: number;
  /** Unix mode of the file; 0 where none is told. */
  mode: number;
}

const LINK = 0o120000;
const FILE_TYPE = 0o170000;
/** Short entries pack well without being an attack. */
const RATIO_FROM = 1024 * 1024;

/** Why a zip is not taken for a bundle, by its directory alone: before anything of it is unpacked. '' for one that may be read. */
export function bundleFault(entries: readonly ZipEntry[]): string {
  if (entries.length > BUNDLE_LIMITS.entries) return `It holds more than ${BUNDLE_LIMITS.entries} files.`;
  const seen = new Set<string>();
  let bytes = 0;
  for (const entry of entries) {
    if ((entry.mode & FILE_TYPE) === LINK) return `“${entry.path.slice(0, 80)}” is a link.`;
    if (!PATHS.test(entry.path)) return `“${entry.path.slice(0, 80)}” is nothing that a bundle holds.`;
    if (seen.has(entry.path)) return `“${entry.path}” is in it twice.`;
    seen.add(entry.path);
    bytes += entry.bytes;
    if (bytes > BUNDLE_LIMITS.bytes) return 'It unpacks to more than 8 GiB.';
    if (entry.bytes > RATIO_FROM && entry.bytes > entry.packedBytes * BUNDLE_LIMITS.ratio)
      return `“${entry.path}” unpacks to more than ${BUNDLE_LIMITS.ratio} times its length.`;
  }
  return seen.has('manifest.json') ? '' : 'It has no manifest.json.';
}

/** Reads a manifest. @param text of `manifest.json` */
export function readManifest(
  text: string
): { ok: true; manifest: BundleManifest } | { ok: false; message: string } {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch {
    return { ok: false, message: 'Its manifest.json is no JSON.' };
  }
  const version = (given as { tromixBundle?: unknown } | null)?.tromixBundle;
  if (typeof version === 'number' && version > BUNDLE_VERSION)
    return {
      ok: false,
      message: `It was written by a newer version (bundle ${version}; this one reads up to ${BUNDLE_VERSION}). Update Tromix to open it.`
    };
  const read = v.safeParse(BundleManifest, given);
  if (read.success) return { ok: true, manifest: read.output };
  const [issue] = read.issues;
  return {
    ok: false,
    message: `Its manifest is not as it should be: ${issue.path?.map(({ key }) => String(key)).join('.') ?? ''} ${issue.message}`
  };
}
