import { settings } from '../settings';

/** A body is larger than it may be. */
export class BodyTooLarge extends Error {}

/** A body comes so slowly that its connection is of more use to somebody else. */
export class TooSlow extends Error {
  constructor() {
    super(
      `The body stopped coming: fewer than ${LEAST_BYTES} bytes in ${WINDOW_MS / 1000} seconds. Send it again over a better connection.`
    );
  }
}

/** So many bytes of bodies are held in memory already that no further ones are taken for the moment. */
export class TooManyUnderWay extends Error {
  constructor() {
    super(
      'Too much is being sent at once. Send it again a little later. The limit is the setting TROMIX_MAX_UNDER_WAY_BYTES.'
    );
  }
}

/** While a body is waited for it must bring so much in such a time. Waiting of our own does not count. */
const WINDOW_MS = 20_000;
const LEAST_BYTES = 4096;

/** Bytes of bodies held in memory just now, over all connections. */
let underWay = 0;

/** What comes, as long as it keeps coming. @throws TooSlow */
export async function* progressing(
  stream: AsyncIterable<Uint8Array>,
  windowMs = WINDOW_MS
): AsyncGenerator<Uint8Array> {
  const parts = stream[Symbol.asyncIterator]();
  let waitedMs = 0;
  let bytes = 0;
  // The stream is not closed where the rest is not wanted: that would end the connection before the answer is sent. It is closed behind the answer
  // (server.mjs).
  for (;;) {
    const begun = performance.now();
    const next = await within(parts.next(), windowMs - waitedMs);
    if (next.done) return;
    waitedMs += performance.now() - begun;
    bytes += next.value.length;
    if (bytes >= LEAST_BYTES) waitedMs = bytes = 0;
    else if (waitedMs >= windowMs) throw new TooSlow();
    yield next.value;
  }
}

async function within<T>(promise: Promise<T>, ms: number): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new TooSlow()), Math.max(0, ms));
  });
  try {
    return await Promise.race([promise, late]);
  } finally {
    clearTimeout(timer);
  }
}

/**
 * Reads a request's body whole and hands it to some work. Until that is done it counts as under way.
 * @throws BodyTooLarge, TooSlow, TooManyUnderWay
 */
export async function withBody<T>(
  request: Request,
  maxBytes: number,
  work: (body: Uint8Array) => Promise<T>
): Promise<T> {
  if (Number(request.headers.get('content-length') ?? 0) > maxBytes) throw new BodyTooLarge();
  const { maxUnderWayBytes } = settings();
  const parts: Uint8Array[] = [];
  let bytes = 0;
  try {
    if (request.body) {
      for await (const part of progressing(request.body as unknown as AsyncIterable<Uint8Array>)) {
        bytes += part.length;
        underWay += part.length;
        if (bytes > maxBytes) throw new BodyTooLarge();
        if (underWay > maxUnderWayBytes) throw new TooManyUnderWay();
        parts.push(part);
      }
    }
    return await work(Buffer.concat(parts));
  } finally {
    underWay -= bytes;
  }
}
