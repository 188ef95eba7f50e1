// The entry of the built server: what adapter-node leaves open is decided here.
import { createServer } from 'node:http';
import { endSessions, listenerOf } from './grpc-answer.mjs';

/** Ends with one sentence: whoever starts a server reads words, not a stack. */
function refuse(words, code = 1) {
  console.error(words);
  process.exit(code);
}

const HOST = process.env.HOST || '127.0.0.1';
const portText = process.env.PORT || '4380';
const PORT = Number(portText);
if (!/^\d{1,5}$/.test(portText) || PORT > 65_535)
  refuse(`Invalid PORT: expected a number from 0 to 65535, but found ${portText}.`, 2);
const loopback = /^(?:127(?:\.\d{1,3}){3}|localhost|::1)$/.test(HOST);
if (!loopback && !process.env.TROMIX_TOKEN)
  refuse(
    `Tromix does not listen on ${HOST} without an access token. Set TROMIX_TOKEN, or leave HOST at 127.0.0.1.`,
    2
  );
process.chdir(new URL('.', import.meta.url).pathname);
// The routes have limits of their own that name their settings.
process.env.BODY_SIZE_LIMIT = 'Infinity';
// The application learns how a request came by a header of ours, never by what the request says of itself.
const behindProxy = process.env.TROMIX_TRUST_PROXY === '1';
process.env.PROTOCOL_HEADER = 'x-tromix-protocol';
if (behindProxy) process.env.ADDRESS_HEADER = 'x-forwarded-for';

// One fault must not end the service: what it was about has failed and says so.
process.on('unhandledRejection', (cause) => console.error('A task failed:', cause));
process.on('uncaughtException', (cause) => console.error('A fault was caught:', cause));

let listener;
/** Ends at once while it still loads, else when what is under way was closed. */
function stop() {
  if (!listener) process.exit(0);
  listener.close(() => process.exit(0));
  server.closeAllConnections();
  endSessions();
}
// Before anything is loaded: whoever started it may be gone before it listens.
for (const event of ['SIGTERM', 'SIGINT', 'disconnect']) process.on(event, stop);

const { handler } = await import('./build/handler.js').catch((cause) =>
  refuse(
    cause.code === 'ERR_MODULE_NOT_FOUND' && String(cause.message).includes('build/handler.js')
      ? 'The application is not built. Run “npm run build” first.'
      : cause.message,
    cause.name === 'StartError' && String(cause.message).startsWith('Invalid ') ? 2 : 1
  )
);

/** A request that was answered before its body had come: the answer has so long to arrive before the connection is closed. */
const LINGER_MS = 1000;

const server = createServer((request, response) => {
  // Else whoever never sends the rest would hold the connection for good. One whose body has come meanwhile may be in use again.
  response.once('finish', () => {
    if (request.complete) return;
    setTimeout(() => request.complete || request.socket.destroy(), LINGER_MS).unref();
  });
  response.setHeader('x-content-type-options', 'nosniff');
  response.setHeader('x-frame-options', 'DENY');
  const forwarded = behindProxy
    ? String(request.headers['x-forwarded-proto'] ?? '')
        .split(',')[0]
        .trim()
    : '';
  request.headers['x-tromix-protocol'] = forwarded === 'https' ? 'https' : 'http';
  // Without the proxy's word the address is the connection's own.
  if (behindProxy) request.headers['x-forwarded-for'] ??= request.socket.remoteAddress ?? '';
  // Without a type the handler would take a body for none: a script that sends just bytes means just bytes.
  if (request.method === 'POST') request.headers['content-type'] ??= 'application/octet-stream';
  handler(request, response, () => {
    response.writeHead(404).end();
  });
});
// A slow upload may take as long as it needs as long as it goes on (see http/read-body.ts); a connection that says nothing may not.
server.requestTimeout = 0;
server.headersTimeout = 20_000;
// Exporters send every few seconds over one connection: it is not closed under their hands.
server.keepAliveTimeout = 75_000;
listener = listenerOf(server);
// More than any number of browsers and exporters needs; what goes beyond waits to be accepted.
listener.maxConnections = 2000;
const LISTENING = {
  EADDRINUSE: `Port ${PORT} is taken. Set PORT to another one.`,
  EACCES: `This user may not listen on port ${PORT}. Set PORT to one above 1023.`,
  EADDRNOTAVAIL: `${HOST} is no address of this machine. Set HOST to one that is.`,
  ENOTFOUND: `${HOST} is no address of this machine. Set HOST to one that is.`
};
listener.on('error', (error) => refuse(LISTENING[error.code] ?? error.message));
listener.listen(PORT, HOST, () => {
  const { port } = listener.address();
  console.log(`Tromix listens on http://${HOST.includes(':') ? `[${HOST}]` : HOST}:${port}`);
  process.send?.({ ready: port });
});
