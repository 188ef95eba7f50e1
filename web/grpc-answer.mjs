// An exporter that speaks gRPC to the server gets an answer that says what to set instead. gRPC is HTTP/2, whose connections
// begin with a line of their own (RFC 9113, 3.4), by which they are recognised.
import { createServer } from 'node:http2';
import net from 'node:net';

const PREFACE = 'PRI * HTTP/2.0';
/** google.rpc.Code: the operation is not implemented here; a client does not try again. */
const UNIMPLEMENTED = '12';
/** A connection that says nothing is closed. */
const SILENT_MS = 20_000;

const WORDS =
  'Tromix takes OTLP over HTTP, not over gRPC, on this port. Set OTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf (and the endpoint without a path).';

// Each stream is answered at its first frame: a session needs neither memory nor time.
const http2 = createServer({ maxSessionMemory: 1, settings: { maxConcurrentStreams: 100 } });
const sessions = new Set();
http2.on('session', (session) => {
  sessions.add(session);
  session.once('close', () => sessions.delete(session));
  session.setTimeout(SILENT_MS, () => session.destroy());
});
http2.on('stream', (stream) => {
  process.emit('tromix:grpc', WORDS);
  stream.on('error', () => {});
  stream.resume();
  stream.respond(
    {
      ':status': 200,
      'content-type': 'application/grpc',
      'grpc-status': UNIMPLEMENTED,
      // gRPC over HTTP/2: the message is percent-encoded.
      'grpc-message': encodeURI(WORDS)
    },
    { endStream: true }
  );
});
http2.on('sessionError', () => {});

/** Ends what would keep the listener from closing. */
export function endSessions() {
  for (const session of sessions) session.destroy();
}

/**
 * Listens in place of an HTTP/1 server and hands each connection to it, but for those of HTTP/2.
 * What watches over slow headers begins with that server's event `listening`, which would never come by itself.
 */
export function listenerOf(http1) {
  const listener = net.createServer({ noDelay: true }, (socket) => {
    socket.on('error', () => {});
    socket.setTimeout(SILENT_MS, () => socket.destroy());
    socket.once('readable', () => {
      const first = socket.read();
      if (first === null) return void socket.destroy();
      socket.setTimeout(0);
      socket.removeAllListeners('timeout');
      socket.unshift(first);
      const isHttp2 = first.toString('latin1', 0, PREFACE.length) === PREFACE;
      (isHttp2 ? http2 : http1).emit('connection', socket);
    });
  });
  listener.once('listening', () => http1.emit('listening'));
  return listener;
}
