import { mkdtemp, rm } from 'node:fs/promises';
import { createWriteStream } from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { open as openZip, type Entry, type ZipFile } from 'yauzl';
import { BUNDLE_LIMITS, bundleFault, readManifest, type BundleManifest } from '@tromix/core/case/bundle';
import { takeEvidence } from '../evidence/take-evidence';
import { publish } from '../live';
import { caseOf, keptBy } from '../queries/cases';
import { settings } from '../settings';
import { change } from '../workers';

/** What became of a bundle. */
export type OpenedBundle =
  { ok: true; id: string; question: string; notes: string[] } | { ok: false; message: string };

/** Opens a bundle: its directory is judged before anything is unpacked; then each file is taken in as if it had been sent by itself. Nothing that is here is written over. */
export async function openBundle(stream: AsyncIterable<Uint8Array>, maxBytes: number): Promise<OpenedBundle> {
  const folder = await mkdtemp(path.join(settings().dataFolder, 'bundle-'));
  try {
    const file = path.join(folder, 'bundle.zip');
    if (!(await stored(stream, file, maxBytes)))
      return {
        ok: false,
        message: `The bundle is longer than ${maxBytes} bytes. The limit is the setting TROMIX_MAX_UPLOAD_BYTES.`
      };
    let zip: ZipFile;
    try {
      zip = await zipAt(file);
    } catch {
      return { ok: false, message: 'It is no zip, or it is damaged.' };
    }
    try {
      return await read(zip);
    } finally {
      zip.close();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function stored(stream: AsyncIterable<Uint8Array>, file: string, maxBytes: number): Promise<boolean> {
  let bytes = 0;
  let isTooLong = false;
  await pipeline(async function* () {
    for await (const part of stream) {
      bytes += part.length;
      isTooLong = bytes > maxBytes;
      if (isTooLong) return;
      yield part;
    }
  }, createWriteStream(file));
  return !isTooLong;
}

const zipAt = (file: string): Promise<ZipFile> =>
  new Promise((resolve, reject) =>
    openZip(
      file,
      { lazyEntries: true, autoClose: false, validateEntrySizes: true, strictFileNames: true },
      (cause, zip) => (cause ? reject(cause) : resolve(zip))
    )
  );

/** The directory; a zip with more files than a bundle may have is not read to its end. */
function entriesOf(zip: ZipFile): Promise<Entry[]> {
  return new Promise((resolve, reject) => {
    const entries: Entry[] = [];
    zip.on('entry', (entry: Entry) => {
      entries.push(entry);
      if (entries.length > BUNDLE_LIMITS.entries) resolve(entries);
      else zip.readEntry();
    });
    zip.once('end', () => resolve(entries));
    zip.once('error', reject);
    zip.readEntry();
  });
}

const contentOf = (zip: ZipFile, entry: Entry): Promise<Readable> =>
  new Promise((resolve, reject) =>
    zip.openReadStream(entry, (cause, stream) => (cause ? reject(cause) : resolve(stream)))
  );

async function read(zip: ZipFile): Promise<OpenedBundle> {
  let entries: Entry[];
  try {
    entries = await entriesOf(zip);
  } catch (cause) {
    return { ok: false, message: `Its directory cannot be read: ${(cause as Error).message}` };
  }
  const fault = bundleFault(
    entries.map(({ fileName, compressedSize, uncompressedSize, externalFileAttributes }) => ({
      path: fileName,
      packedBytes: compressedSize,
      bytes: uncompressedSize,
      mode: externalFileAttributes >>> 16
    }))
  );
  if (fault) return { ok: false, message: fault };
  const byPath = new Map(entries.map((entry) => [entry.fileName, entry]));
  const manifestEntry = byPath.get('manifest.json')!;
  if (manifestEntry.uncompressedSize > BUNDLE_LIMITS.manifestBytes)
    return { ok: false, message: 'Its manifest is too long.' };
  const parts: Buffer[] = [];
  try {
    for await (const part of await contentOf(zip, manifestEntry)) parts.push(part as Buffer);
  } catch (cause) {
    return { ok: false, message: `Its manifest cannot be read: ${(cause as Error).message}` };
  }
  const manifest = readManifest(Buffer.concat(parts).toString('utf8'));
  return manifest.ok ? take(zip, byPath, manifest.manifest) : manifest;
}

/** Takes in what the manifest names; what is missing or damaged is said and the rest goes on. */
async function take(
  zip: ZipFile,
  byPath: Map<string, Entry>,
  manifest: BundleManifest
): Promise<OpenedBundle> {
  const notes: string[] = [];
  const takeOne = async (at: string, label: Parameters<typeof takeEvidence>[1]): Promise<void> => {
    const entry = byPath.get(at);
    if (!entry) return void notes.push(`${at} is not in the bundle.`);
    try {
      const outcome = await takeEvidence(await contentOf(zip, entry), label);
      if (!outcome.ok) notes.push(`${at}: ${outcome.message}`);
    } catch (cause) {
      notes.push(`${at} is damaged: ${(cause as Error).message}`);
    }
  };
  const nobody = { name: '', service: '', host: '', release: '', pid: 0, startedAtUs: null };
  for (const at of manifest.traces) await takeOne(at, { ...nobody, name: at });
  for (const { sha256, ...label } of manifest.files) await takeOne(`evidence/${sha256}`, label);
  const one = manifest.case;
  const known = await caseOf(one.id);
  // One that is here stays as it is; what it has not yet is added.
  await change('openCase', one, keptBy({ ...one, state: known?.state ?? one.state }));
  publish('cases');
  if (known) notes.push('This case is here already: only entries it did not have were added.');
  return { ok: true, id: one.id, question: known?.question ?? one.question, notes };
}
