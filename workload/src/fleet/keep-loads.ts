import http from 'node:http';
import { buildSync } from 'esbuild';
import { fileURLToPath } from 'node:url';

const SCRIPT = fileURLToPath(new URL('../../../collect/src/main.ts', import.meta.url));

/** What a page sent: when it came, epoch microseconds, to which address, and the body. */
export interface SentByPage {
  atUs: number;
  path: string;
  body: string;
}

/**
 * Stands where Tromix would: takes traces, gives pages their script, and keeps what they send, each with the moment it came.
 * Returns what came so far, and how to stop.
 */
export async function keepLoads(
  port: number
): Promise<{ traces: Buffer[]; loads: SentByPage[]; close: () => void }> {
  const [{ text: script }] = buildSync({
    entryPoints: [SCRIPT],
    bundle: true,
    minify: true,
    write: false,
    format: 'iife',
    target: 'es2020'
  }).outputFiles;
  const traces: Buffer[] = [];
  const loads: SentByPage[] = [];
  const server = http.createServer((request, response) => {
    const atUs = Date.now() * 1000;
    const path = request.url ?? '';
    response.setHeader('access-control-allow-origin', '*');
    if (path === '/collect.js')
      return void response.writeHead(200, { 'content-type': 'text/javascript' }).end(script);
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      const body = Buffer.concat(parts);
      if (path === '/v1/traces') traces.push(body);
      else if (path.startsWith('/collect')) loads.push({ atUs, path, body: body.toString('utf8') });
      response.writeHead(path.startsWith('/v1/') ? 200 : 204).end();
    });
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return { traces, loads, close: () => void server.close() };
}
