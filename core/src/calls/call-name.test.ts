import { describe, expect, it } from 'vitest';
import { callNames } from './call-name';

const http = (fingerprint: string, callee = ''): { kind: string; fingerprint: string; callee: string } => ({
  kind: 'http',
  fingerprint,
  callee
});

describe('names of groups of calls', () => {
  it('tell the service that answers for its address', () =>
    expect(callNames([http('POST 127.0.0.1:47401/calls/:id/berth', 'berths')])).toEqual([
      'POST berths/calls/:id/berth'
    ]));

  it('tell the host where nobody answers, without a port that goes without saying', () =>
    expect(
      callNames([
        http('GET tides.example:443/window'),
        http('GET tides.example:8443/window'),
        http('GET gauge.example')
      ])
    ).toEqual(['GET tides.example/window', 'GET tides.example:8443/window', 'GET gauge.example']));

  it('never look alike: two addresses of one service tell their ports, or stay whole', () => {
    expect(
      callNames([http('POST 127.0.0.1:47401/berth', 'berths'), http('POST 127.0.0.1:47701/berth', 'berths')])
    ).toEqual(['POST berths:47401/berth', 'POST berths:47701/berth']);
    expect(
      callNames([http('POST berths/berth', 'berths'), http('POST 127.0.0.1:47701/berth', 'berths')])
    ).toEqual(['POST berths/berth', 'POST berths:47701/berth']);
    expect(
      callNames([
        http('GET 10.0.0.1:80/window', 'tides'),
        http('GET 10.0.0.2:80/window', 'tides'),
        http('GET 10.0.0.2:80/station', 'tides')
      ])
    ).toEqual(['GET 10.0.0.1:80/window', 'GET 10.0.0.2:80/window', 'GET tides/station']);
  });

  it('of other kinds are their fingerprints', () => {
    const query = { kind: 'database', fingerprint: 'select a/b from t:80', callee: '' };
    expect(callNames([query, { ...query, kind: 'cache' }])).toEqual([query.fingerprint, query.fingerprint]);
  });
});
