import { describe, expect, it } from 'vitest';
import { span } from '../testing/spans';
import { endpointOf } from './endpoint';
import { templatePath } from './path-template';

const of = (attributes: Record<string, string>, name = 'work'): string =>
  endpointOf(span({ id: 'x', name, from: 0, to: 1, attributes }));

describe('endpointOf', () => {
  it.each([
    [{ 'http.request.method': 'GET', 'http.route': '/calls/{id}' }, 'GET /calls/{id}'],
    [{ 'http.method': 'POST', 'http.target': '/calls/88/berth?x=1' }, 'POST /calls/:id/berth'],
    [{ 'http.method': 'GET', 'http.url': 'http://quay:80/a/2026-03-01' }, 'GET /a/:id'],
    [{ 'rpc.service': 'Tides', 'rpc.method': 'Window' }, 'Tides/Window'],
    [{ 'messaging.operation.name': 'process', 'messaging.destination.name': 'roster' }, 'process roster'],
    [{}, 'work']
  ])('%j is %s', (attributes, expected) => {
    expect(of(attributes as unknown as Record<string, string>)).toBe(expected);
  });
});

describe('templatePath', () => {
  it.each([
    ['/vessels/9100042', '/vessels/:id'],
    ['/a/0e4b2c9a-1f7d-4b6e-9a53-2f1c5d7e8a90/b', '/a/:id/b'],
    ['/blob/9f86d081884c7d65', '/blob/:id'],
    ['/days/2026-11-23', '/days/:id'],
    ['/feedface/decade', '/feedface/decade'],
    ['/v1/traces', '/v1/traces'],
    ['/%31%32', '/:id'],
    ['/%zz/7', '/%zz/:id']
  ])('%s becomes %s', (path, expected) => expect(templatePath(path)).toBe(expected));
});
