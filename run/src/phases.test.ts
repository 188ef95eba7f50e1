import { EventEmitter } from 'node:events';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Span } from '@opentelemetry/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { noteFirstByte, notePhases } from './phases';

/** What a span is told, in order. */
function listening(): { span: Span; names: () => string[]; at: (name: string) => number } {
  const events: [string, number][] = [];
  const span = { addEvent: (name: string, atMs: number) => events.push([name, atMs]) } as unknown as Span;
  return {
    span,
    names: () => events.map(([name]) => name),
    at: (name) => events.find(([one]) => one === name)![1]
  };
}

describe('phases of an outgoing request', () => {
  const server = http.createServer((_, response) => {
    setTimeout(() => response.end('here'), 30);
  });
  const agent = new http.Agent({ keepAlive: true });
  beforeAll(() => new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve)));
  afterAll(() => {
    agent.destroy();
    server.close();
  });
  const ask = (span: Span): Promise<void> =>
    new Promise((resolve, reject) => {
      const { port } = server.address() as AddressInfo;
      const request = http.get({ host: 'localhost', family: 4, port, agent }, (response) => {
        response.resume().on('end', resolve);
      });
      request.on('error', reject);
      notePhases(span, request);
    });

  it('are the look-up, the connection and the first byte; of a connection that is kept only the last', async () => {
    const first = listening();
    await ask(first.span);
    expect(first.names()).toEqual([
      'domainLookupStart',
      'domainLookupEnd',
      'connectStart',
      'connectEnd',
      'responseStart'
    ]);
    // The server waits 30 ms; timers may fire a little early.
    expect(first.at('responseStart') - first.at('connectEnd')).toBeGreaterThan(25);
    expect(first.at('domainLookupStart')).toBeLessThanOrEqual(first.at('domainLookupEnd'));
    expect(first.at('domainLookupEnd')).toBe(first.at('connectStart'));
    const second = listening();
    await ask(second.span);
    expect(second.names()).toEqual(['responseStart']);
  });

  it('hold TLS within the connection', () => {
    const { span, names } = listening();
    const request = Object.assign(new EventEmitter(), { onSocket: () => undefined });
    const socket = Object.assign(new EventEmitter(), { connecting: true, encrypted: true });
    notePhases(span, request as unknown as http.ClientRequest);
    request.emit('socket', socket);
    socket.emit('connect');
    expect(names()).toEqual(['connectStart', 'secureConnectionStart']);
    socket.emit('secureConnect');
    expect(names().at(-1)).toBe('connectEnd');
  });

  it('are not of a request that comes in', () => {
    const { span, names } = listening();
    const incoming = new EventEmitter() as unknown as http.IncomingMessage;
    notePhases(span, incoming);
    expect(incoming.listenerCount('response')).toBe(0);
    noteFirstByte(span);
    expect(names()).toEqual(['responseStart']);
  });
});
