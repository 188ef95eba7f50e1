import { expect, it } from 'vitest';
import { namesSameRoute } from './route-names';

it.each([
  ['GET /vessels/:id', 'GET /vessels/17', true],
  ['GET /vessels/17', 'GET /vessels/{id}', true],
  ['GET /vessels/<id>/calls', 'GET /vessels/17/calls', true],
  ['GET /vessels/:id', 'POST /vessels/17', false],
  ['GET /vessels/:id', 'GET /berths/17', false],
  ['GET /vessels/:id', 'GET /vessels/17/calls', false],
  ['GET /vessels/17', 'GET /vessels/18', false],
  ['GET /vessels/:id', 'GET /vessels/:number', false]
])('%s and %s: %s', (one, other, same) => expect(namesSameRoute(one, other)).toBe(same));
