import { expect, it } from 'vitest';
import { query, resource, span } from '../testing/spans';
import { ownTime } from './own-time';
import { accountTrace } from './requests';
import { SpanKind } from './span';
import { buildTree } from './tree';

const MS = 1e6;
const BASE_US = 1_700_000_000_000_000;

it('tells when a request computed by the clock of its own process, though its spans were shifted', () => {
  const gate = resource('gate', 'quay-1', 1);
  const spans = [
    span({ id: 'call', kind: SpanKind.CLIENT, from: 0, to: 100, resource: gate }),
    // The clock of this process goes 500 ms ahead.
    span({ id: 'served', parent: 'call', kind: SpanKind.SERVER, from: 510, to: 590 }),
    query('asks', 'served', 530, 560, 'SELECT 1')
  ];
  const account = accountTrace(buildTree(spans));
  const served = account.requests.find(({ node }) => account.tree.nodes[node].span.name === 'served')!;
  expect([...ownTime(account.tree, served, BASE_US)].map((ns) => ns / MS)).toEqual([510, 530, 560, 590]);
  expect([...ownTime(account.tree, served, BASE_US + 500_000)].map((ns) => ns / MS)).toEqual([
    10, 30, 60, 90
  ]);
});
