// The entry of the built server: what adapter-node leaves open is decided here.
import { createServer } from 'node:http';

const HOST = process.env.HOST ?? '127.0.0.1';
const PORT = Number(process.env.PORT ?? 4380);
const loopback = /^(?:127(?:\.\d{1,3}){3}|localhost|::1)$/.test(HOST);
if (!loopback && !process.env.TROMIX_TOKEN) {
  console.error(
    `Tromix does not listen on ${HOST} without an access token. Set TROMIX_TOKEN, or leave HOST at 127.0.0.1.`
  );
  process.exit(2);
}
process.chdir(new URL('.', import.meta.url).pathname);
// The routes have limits of their own that name their settings.
process.env.BODY_SIZE_LIMIT = 'Infinity';
const { handler } = await import('./build/handler.js');

const server = createServer((request, response) => {
  response.setHeader('x-content-type-options', 'nosniff');
  response.setHeader('x-frame-options', 'DENY');
  // Without a type the handler would take a body for none: a script that sends just bytes means just bytes.
  if (request.method === 'POST') request.headers['content-type'] ??= 'application/octet-stream';
  handler(request, response, () => {
    response.writeHead(404).end();
  });
});
// A slow upload may take as long as it needs; a connection that says nothing may not.
server.requestTimeout = 0;
server.headersTimeout = 20_000;
// Exporters send every few seconds over one connection: it is not closed under their hands.
server.keepAliveTimeout = 75_000;
server.on('error', (error) => {
  console.error(
    error.code === 'EADDRINUSE' ? `Port ${PORT} is taken. Set PORT to another one.` : error.message
  );
  process.exit(1);
});
server.listen(PORT, HOST, () => {
  console.log(`Tromix listens on http://${HOST.includes(':') ? `[${HOST}]` : HOST}:${PORT}`);
  process.send?.({ ready: PORT });
});

function stop() {
  server.close(() => process.exit(0));
  server.closeAllConnections();
}
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
process.on('disconnect', stop);
