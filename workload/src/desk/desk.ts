import { createServer } from 'node:http';
import { Inbox } from './inbox';
import { inboxHtml } from './inbox-page';

/**
 * The harbour desk of Quillhaven, a stand-in for whatever takes notices: it checks who signed them, and shows what it took.
 * Environment: DESK_PORT, DESK_SECRET (base64), DESK_STATUS (what it answers; 200 where it is not named).
 */
const port = Number(process.env.DESK_PORT ?? 4490);
const status = Number(process.env.DESK_STATUS ?? 200);
const inbox = new Inbox(process.env.DESK_SECRET ?? '');
/** A notice is a few kilobytes. */
const MAX_BYTES = 256 * 1024;

const server = createServer((request, response) => {
  if (request.method !== 'POST') {
    response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' });
    return void response.end(inboxHtml(inbox.list(), Date.now()));
  }
  const parts: Buffer[] = [];
  let bytes = 0;
  request.on('data', (part: Buffer) => {
    bytes += part.length;
    if (bytes <= MAX_BYTES) parts.push(part);
  });
  request.on('end', () => {
    const taken = inbox.take(request.headers, Buffer.concat(parts).toString('utf8'), Date.now());
    response.writeHead(taken ? status : 401, { 'content-type': 'text/plain' });
    response.end(taken ? 'Taken.' : 'The signature is not that of a notice for this desk.');
  });
});
server.listen(port, '127.0.0.1', () => process.send?.({ desk: port }));
