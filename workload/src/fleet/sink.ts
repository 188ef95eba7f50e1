import http from 'node:http';
import { gunzipSync } from 'node:zlib';

export type Signal = 'traces' | 'metrics' | 'logs';

/** What came of each signal: whole OTLP messages, which merge when written after one another. */
export type Sent = Record<Signal, Buffer[]>;

/** Takes what services send and keeps it as it came. Returns what came so far, and how to stop. */
export async function keepSent(port: number): Promise<{ sent: Sent; close: () => void }> {
  const sent: Sent = { traces: [], metrics: [], logs: [] };
  const server = http.createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      const body = Buffer.concat(parts);
      const signal = request.url?.replace('/v1/', '') as Signal;
      sent[signal].push(request.headers['content-encoding'] === 'gzip' ? gunzipSync(body) : body);
      response.writeHead(200, { 'content-type': 'application/x-protobuf' }).end();
    });
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return { sent, close: () => void server.close() };
}
