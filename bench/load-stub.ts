/** A server that answers at once, after an exact time, or stands still for 1 s in every 10; each in a process of its own. Sends its port to its parent. */
import { once } from 'node:events';
import net, { type AddressInfo, type Socket } from 'node:net';

const [mode, argument = '0'] = process.argv.slice(2);
const ANSWER = Buffer.from('HTTP/1.1 200 OK\r\ncontent-length: 2\r\n\r\n{}');
const STALL_MS = 1000;
const EVERY_MS = 10_000;

/** Answers so many milliseconds after now: timers come early or late by up to one, so the last is waited out. @param answer is given how long it was in the end, ms */
function afterExactly(ms: number, answer: (tookMs: number) => void): void {
  const begun = performance.now();
  setTimeout(() => {
    while (performance.now() < begun + ms);
    answer(performance.now() - begun);
  }, ms - 2);
}

/** An answer that says by its length how many microseconds longer than it should it came: a machine that takes the core away is known so. */
const saying = (lateUs: number): Buffer =>
  Buffer.from(`HTTP/1.1 200 OK\r\ncontent-length: ${lateUs}\r\n\r\n${'.'.repeat(lateUs)}`);

/** Of every 10 s since the start the fifth second is a stall: what comes in it is answered at its end. */
const begun = performance.now();
const STALL_FROM_MS = 5000;
function afterStall(answer: () => void): void {
  const inPeriod = (performance.now() - begun) % EVERY_MS;
  const left = STALL_FROM_MS + STALL_MS - inPeriod;
  if (inPeriod >= STALL_FROM_MS && left > 0) afterExactly(left, () => answer());
  else answer();
}

const server = net.createServer((socket: Socket) => {
  socket.setNoDelay(true);
  socket.on('error', () => undefined);
  const answer = (): void => void socket.write(ANSWER);
  // One request at a time on each connection, each in one packet.
  socket.on('data', () => {
    if (mode === 'sleep')
      afterExactly(Number(argument), (tookMs) =>
        socket.write(saying(Math.round((tookMs - Number(argument)) * 1000)))
      );
    else if (mode === 'stall') afterStall(answer);
    else answer();
  });
});
/** Asks itself some times: what a server does for the first time takes longer, and would be taken for the driver’s. */
async function warmUp(port: number): Promise<void> {
  for (let connection = 0; connection < 4; connection++) {
    const socket = net.connect(port, '127.0.0.1').setNoDelay(true);
    for (let i = 0; i < 5; i++) {
      socket.write('GET / HTTP/1.1\r\nhost: stub\r\n\r\n');
      await once(socket, 'data');
    }
    socket.destroy();
  }
}

await once(server.listen(0, '127.0.0.1'), 'listening');
const { port } = server.address() as AddressInfo;
if (mode === 'sleep') await warmUp(port);
process.send?.(port);
