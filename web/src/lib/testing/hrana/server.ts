import { randomUUID } from 'node:crypto';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { json } from 'node:stream/consumers';
import type { PipelineRequest, StreamResult } from './protocol';
import { Stream } from './stream';

/** A stream that nobody asks any more is closed, as a server does. */
const IDLE_MS = 10_000;

export interface HranaServer {
  /** Address of a file’s database. */
  urlOf: (file: string) => string;
  /** How many requests came for a file. */
  roundTrips: (file: string) => number;
  close: () => Promise<void>;
}

/** A stand-in for a libSQL server: it speaks Hrana over HTTP for any file of this machine. For tests: whoever reaches it may write whatever it may. */
export async function startHrana(): Promise<HranaServer> {
  const counts = new Map<string, number>();
  const streams = new Streams();
  const server = http.createServer((request, response) => {
    const [, file] = /^\/([^/]+)\/v2\/pipeline$/.exec(request.url ?? '') ?? [];
    if (!file) return void response.writeHead(404).end();
    const name = Buffer.from(file, 'base64url').toString();
    counts.set(name, (counts.get(name) ?? 0) + 1);
    json(request)
      .then((body) => streams.pipeline(name, body as PipelineRequest))
      .then(
        (answer) => response.setHeader('content-type', 'application/json').end(JSON.stringify(answer)),
        (cause: Error) => response.writeHead(400).end(JSON.stringify({ message: cause.message }))
      );
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  return {
    // The client takes paths apart: a file’s path is one plain word.
    urlOf: (file) => `http://127.0.0.1:${port}/${Buffer.from(file).toString('base64url')}/`,
    roundTrips: (file) => counts.get(file) ?? 0,
    close: async () => {
      streams.close();
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    }
  };
}

/** The streams that are open, by the baton that the next request of theirs brings. */
class Streams {
  readonly #open = new Map<string, { stream: Stream; idle: NodeJS.Timeout }>();

  pipeline(
    file: string,
    { baton, requests }: PipelineRequest
  ): { baton: string | null; base_url: null; results: StreamResult[] } {
    const stream = baton ? this.#take(baton) : new Stream(file);
    const results = requests.map((request) => stream.answer(request));
    const closed = requests.some(({ type }) => type === 'close');
    return { baton: closed ? null : this.#keep(stream), base_url: null, results };
  }

  #take(baton: string): Stream {
    const kept = this.#open.get(baton);
    if (!kept) throw new Error('This stream is closed.');
    clearTimeout(kept.idle);
    this.#open.delete(baton);
    return kept.stream;
  }

  #keep(stream: Stream): string {
    const baton = randomUUID();
    const idle = setTimeout(() => this.#take(baton).close(), IDLE_MS).unref();
    this.#open.set(baton, { stream, idle });
    return baton;
  }

  close(): void {
    for (const baton of [...this.#open.keys()]) this.#take(baton).close();
  }
}
