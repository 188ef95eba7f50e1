import { Readable } from 'node:stream';
import { ZipFile } from 'yazl';
import { BUNDLE_VERSION, type BundleManifest } from '@tromix/core/case/bundle';
import { briefOfCase } from '@tromix/core/case/brief';
import { briefMarkdown } from '@tromix/core/case/brief-markdown';
import { evidenceOfCase, type Case } from '@tromix/core/case/case';
import { toCsv } from '@tromix/core/text/csv';
import { writeTracesJson } from '@tromix/core/formats/otlp/write';
import { briefAsHtml } from '../brief-answer';
import { EvidenceStore } from '../evidence/evidence-store';
import { evidenceItem } from '../queries/evidence';
import { spansOf } from '../queries/request';
import { settings } from '../settings';

const TRACES = 'traces/traces.otlp.json';

/** A case with all it stands on as a zip of open files, written as it is read: nothing of it is held whole. */
export async function bundleOf(one: Case, nowMs: number): Promise<Readable> {
  const { traces, files } = evidenceOfCase(one);
  const store = new EvidenceStore(settings().dataFolder);
  const items = (await Promise.all(files.map((id) => evidenceItem(id)))).filter((item) => item !== null);
  const there = [];
  for (const item of items) if (await store.has(item.id)) there.push(item);
  const manifest: BundleManifest = {
    tromixBundle: BUNDLE_VERSION,
    madeAtUs: nowMs * 1000,
    case: one,
    traces: traces.length > 0 ? [TRACES] : [],
    files: there.map(({ id, name, service, host, release, pid, startedAtUs }) => ({
      sha256: id,
      name,
      service,
      host,
      release,
      pid,
      startedAtUs
    }))
  };
  const zip = new ZipFile();
  const mtime = new Date(nowMs);
  const brief = briefOfCase(one, { length: 'full', origin: '', nowMs });
  const text = (path: string, content: string): void => zip.addBuffer(Buffer.from(content), path, { mtime });
  text('manifest.json', JSON.stringify(manifest, null, 2));
  text('brief.md', briefMarkdown(brief));
  text('brief.html', briefAsHtml(brief));
  text('figures.csv', figuresCsv(one));
  // Read when its turn comes, one after another.
  if (traces.length > 0)
    zip.addReadStreamLazy(TRACES, { mtime }, (then) => then(null, Readable.from(traceLines(traces))));
  for (const { id } of there)
    zip.addReadStreamLazy(`evidence/${id}`, { mtime }, (then) => {
      void store.read(id).then(
        ({ stream }) => then(null, stream as Readable),
        (cause: Error) => then(cause, Readable.from([]))
      );
    });
  zip.end();
  return zip.outputStream as Readable;
}

/** Every figure that was pinned, with what it is of. */
const figuresCsv = ({ entries }: Case): string =>
  toCsv(
    ['entry', 'what', 'figure', 'value'],
    entries.flatMap(({ title, pin }) =>
      (pin?.figures ?? []).map(({ name, value }) => [title, pin!.kind, name, value])
    )
  );

async function* traceLines(traceIds: readonly string[]): AsyncGenerator<Buffer> {
  for (const id of traceIds)
    for await (const spans of spansOf(id)) yield Buffer.from(`${writeTracesJson(spans)}\n`);
}
