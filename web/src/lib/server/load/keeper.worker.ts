import { readdir, readFile, rm, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { parentPort, type MessagePort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { gunzip } from '@tromix/core/formats/gzip';
import { writeTracesJson } from '@tromix/core/formats/otlp/write';
import { samplesCsv } from '@tromix/core/load/csv';
import { reportOf, type LoadReport } from '@tromix/core/load/report';
import { readRun, writeRun, type LoadEnd, type LoadRun } from '@tromix/core/load/run-file';
import { sampleRows, type SampleOrder, type SampleRow } from '@tromix/core/load/sample-rows';
import { Samples } from '@tromix/core/load/samples';
import { runResource, spanOf } from '@tromix/core/load/spans';
import type { SenderMessage } from '@tromix/load/sender-thread';
import { PartFile, readPart, type RunBegun } from './part-file';

/** What is drawn of a run. */
export interface RunPicture {
  report: LoadReport;
  rows: SampleRow[];
}
/** What a run has become. */
export interface KeptRun {
  file: string;
  end: LoadEnd;
  endUs: number;
}

interface UnderWay {
  run: LoadRun;
  begunMs: number;
  ended: Promise<KeptRun>;
  end: (end: LoadEnd, endUs: number) => void;
}

const PART = '.part';
/** Runs that were read last are looked at again. */
const MOST_READ = 4;

/** Keeps what load runs measure, and says what it comes to: off the server's own thread, and off the thread that sends. */
class LoadKeeper {
  readonly #underWay = new Map<string, UnderWay>();
  readonly #read = new Map<string, LoadRun>();

  /** @param port where the sender's samples come from. */
  begin(begun: RunBegun, folder: string, port: MessagePort): Promise<void> {
    const run: LoadRun = { ...begun, samples: new Samples(), endUs: 0, end: 'cut-off' };
    let part: PartFile | undefined;
    let written = Promise.resolve();
    let end!: UnderWay['end'];
    const ended = new Promise<KeptRun>((resolve, reject) => {
      end = (how, endUs) => {
        // The first that is said of the end counts.
        if (run.endUs > 0) return;
        run.end = how;
        run.endUs = endUs;
        port.close();
        written.then(() => this.#finish(run, folder)).then(resolve, reject);
      };
    });
    ended.catch(() => undefined);
    this.#underWay.set(begun.key, { run, begunMs: performance.now(), ended, end });
    const resource = runResource(begun);
    port.on('message', (message: SenderMessage) => {
      if ('begunAtUs' in message) {
        run.startedAtUs = message.begunAtUs;
        part = new PartFile(path.join(folder, run.key + PART), { ...begun, startedAtUs: run.startedAtUs });
        return;
      }
      if ('ended' in message) return end(message.ended.end, message.ended.endUs);
      const before = run.samples.length;
      run.samples.addPacked(message.samples);
      written = part!.add(message.samples).catch(() => undefined);
      const spans = [];
      for (let i = before; i < run.samples.length; i++)
        spans.push(spanOf(resource, run.plan, run.startedAtUs, run.samples.at(i)));
      const body = new TextEncoder().encode(writeTracesJson(spans));
      parentPort!.postMessage({ tromix: 'load-spans', body }, [body.buffer]);
    });
    return Promise.resolve();
  }

  /** When a run is over. */
  ended(key: string): Promise<KeptRun> {
    return this.#underWay.get(key)?.ended ?? Promise.reject(new Error('This run is not under way.'));
  }

  /** Ends a run whose sender is gone. */
  giveUp(key: string): Promise<void> {
    const found = this.#underWay.get(key);
    found?.end('cut-off', (performance.now() - found.begunMs) * 1000);
    return Promise.resolve();
  }

  /** What a run under way comes to so far; null for one that is not. */
  live(key: string, order: SampleOrder): Promise<RunPicture | null> {
    const found = this.#underWay.get(key);
    if (!found) return Promise.resolve(null);
    const run = { ...found.run, endUs: (performance.now() - found.begunMs) * 1000 };
    return Promise.resolve(pictureOf(run, order));
  }

  /** What a run that is over came to. @throws EvidenceError */
  async past(file: string, order: SampleOrder): Promise<RunPicture> {
    return pictureOf(await this.#open(file), order);
  }

  /** The samples of a run as CSV. */
  async csv(file: string): Promise<string> {
    return samplesCsv(await this.#open(file));
  }

  /** Runs that were under way when a server stopped: kept as they were, cut off. */
  async leftOver(folder: string): Promise<{ run: Omit<LoadRun, 'samples'>; file: string }[]> {
    const names = await readdir(folder).catch(() => []);
    const kept = [];
    for (const name of names.filter((one) => one.endsWith(PART))) {
      const found = await readPart(path.join(folder, name));
      if (found) {
        const { samples, ...run } = found;
        kept.push({ run, file: (await this.#finish({ ...run, samples }, folder)).file });
      } else await rm(path.join(folder, name), { force: true });
    }
    return kept;
  }

  async #finish(run: LoadRun, folder: string): Promise<KeptRun> {
    const file = path.join(folder, `${run.key}.json`);
    await writeFile(file, writeRun(run));
    await rm(path.join(folder, run.key + PART), { force: true });
    this.#underWay.delete(run.key);
    return { file, end: run.end, endUs: run.endUs };
  }

  async #open(file: string): Promise<LoadRun> {
    const known = this.#read.get(file);
    this.#read.delete(file);
    const run =
      known ?? readRun(gunzip(await readFile(file), { maxBytes: MAX_BYTES, setting: 'the longest run' }));
    this.#read.set(file, run);
    for (const oldest of this.#read.keys()) if (this.#read.size > MOST_READ) this.#read.delete(oldest);
    return run;
  }
}
export type { LoadKeeper };

/** Two million samples are about a hundred megabytes. */
const MAX_BYTES = 512 * 1024 * 1024;

const pictureOf = (run: LoadRun, order: SampleOrder): RunPicture => ({
  report: reportOf(run),
  rows: sampleRows(run, order)
});

expose(new LoadKeeper(), nodeEndpoint(parentPort!));
