import { randomUUID } from 'node:crypto';
import { json } from '@sveltejs/kit';
import type { Notice } from '@tromix/core/watch/notice';
import { refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { hookList } from '$lib/server/watch/queries';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Sends a test there, the way notices go: listed, signed, and tried again where it fails. */
export const POST: RequestHandler = async ({ params }) => {
  const hook = (await hookList()).find(({ id }) => id === params.id);
  if (!hook) return refused('This webhook is not here. It may have been removed.', 404);
  const nowMs = Date.now();
  const id = randomUUID();
  await change('addDelivery', {
    id,
    hookId: params.id,
    firingId: '',
    kind: 'test',
    body: JSON.stringify(testNotice(nowMs)),
    state: 'waiting',
    nextAtUs: nowMs * 1000,
    createdAtUs: nowMs * 1000
  });
  publish('watches');
  return json({ id }, { status: 202 });
};

export const DELETE: RequestHandler = async ({ params }) => {
  await change('removeHook', params.id);
  publish('watches');
  return new Response(null, { status: 204 });
};

const testNotice = (nowMs: number): Notice => ({
  type: 'watch.test',
  timestamp: new Date(nowMs).toISOString(),
  data: {
    watch: { id: '', name: 'A test', severity: 'notice', owner: '', condition: '' },
    sentence: 'This is a test: no watch came on.',
    figure: '',
    value: null,
    text: '',
    before: null,
    since: new Date(nowMs).toISOString(),
    until: null,
    lateMinutes: 0,
    links: { watch: '/watches' }
  }
});
