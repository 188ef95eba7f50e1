import { Webhook } from 'standardwebhooks';
import { describe, expect, it } from 'vitest';
import { Inbox } from './inbox';
import { inboxHtml } from './inbox-page';

const SECRET = Buffer.from('the key of the harbour desk').toString('base64');
const body = (name = 'Berthing is slow'): string =>
  JSON.stringify({
    type: 'watch.on',
    data: { watch: { name, severity: 'urgent' }, sentence: 'p95 is 2 s.' }
  });

/** Headers as the reference library of Standard Webhooks makes them. */
function signed(id: string, text: string, at = new Date()): Record<string, string> {
  return {
    'webhook-id': id,
    'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
    'webhook-signature': new Webhook(SECRET).sign(id, at, text)
  };
}

describe('the harbour desk', () => {
  it('takes what is signed, once, and nothing else', () => {
    const inbox = new Inbox(SECRET);
    const now = Date.now();
    expect(inbox.take(signed('a', body()), body(), now)).toBe(true);
    expect(inbox.take(signed('a', body()), body(), now)).toBe(true);
    expect(inbox.take(signed('b', body()), body('Another'), now)).toBe(false);
    expect(inbox.take({ ...signed('c', body()), 'webhook-signature': 'v1,' }, body(), now)).toBe(false);
    expect(inbox.take(signed('d', body(), new Date(now - 600_000)), body(), now)).toBe(false);
    expect(inbox.list()).toMatchObject([{ id: 'a', times: 2, severity: 'urgent' }]);
  });

  it('shows names as text', () => {
    const inbox = new Inbox(SECRET);
    const text = body('<script>alert(1)</script>');
    inbox.take(signed('a', text), text, Date.now());
    expect(inboxHtml(inbox.list(), Date.now())).toContain('&lt;script&gt;');
    expect(inboxHtml([], Date.now())).toContain('No notice came yet.');
  });
});
