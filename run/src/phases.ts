import type { ClientRequest, IncomingMessage } from 'node:http';
import type { Socket } from 'node:net';
import type { TLSSocket } from 'node:tls';
import type { Span } from '@opentelemetry/api';

// Moments of an outgoing request as events of its span, named as W3C Resource Timing names them.

const nowMs = (): number => performance.timeOrigin + performance.now();
const note = (span: Span, name: string, atMs = nowMs()): void => {
  span.addEvent(name, atMs);
};

/** Notes when an outgoing request of `node:http` looked its host up, connected, made the connection secret, and got the first byte. */
export function notePhases(span: Span, request: ClientRequest | IncomingMessage): void {
  if (!('onSocket' in request)) return;
  request.once('socket', (socket) => {
    // One that is kept alive is there already.
    if (socket.connecting) noteConnecting(span, socket);
  });
  request.once('response', () => noteFirstByte(span));
}

/** The head of the answer is there. */
export const noteFirstByte = (span: Span): void => note(span, 'responseStart');

function noteConnecting(span: Span, socket: Socket): void {
  const begunMs = nowMs();
  let connectMs = begunMs;
  socket.once('lookup', () => {
    connectMs = nowMs();
    note(span, 'domainLookupStart', begunMs);
    note(span, 'domainLookupEnd', connectMs);
  });
  const isSecret = (socket as TLSSocket).encrypted;
  socket.once('connect', () => {
    note(span, 'connectStart', connectMs);
    note(span, isSecret ? 'secureConnectionStart' : 'connectEnd');
  });
  if (isSecret) socket.once('secureConnect', () => note(span, 'connectEnd'));
}
