import inspector from 'node:inspector';
import net from 'node:net';
import { isMainThread } from 'node:worker_threads';

/** Where the recorder looks for inspectors by default (`TROMIX_INSPECT`). */
const PORTS = { first: 9229, last: 9239 };

/** Opens the inspector on the first of those ports that is free, on the loopback alone. One that is open already stays. */
export function openInspector(): void {
  if (!isMainThread || inspector.url() !== undefined) return;
  tryFrom(PORTS.first);
}

/** A port that is taken would be reported on the standard error, so a listener of our own tries it first. */
function tryFrom(port: number): void {
  if (port > PORTS.last) return;
  const probe = net.createServer();
  probe.unref();
  probe.once('error', () => tryFrom(port + 1));
  probe.listen(port, '127.0.0.1', () =>
    probe.close(() => {
      if (inspector.url() === undefined) inspector.open(port, '127.0.0.1');
    })
  );
}
