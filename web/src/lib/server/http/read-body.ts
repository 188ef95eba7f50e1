export class BodyTooLarge extends Error {}

/** Reads a request's body whole, up to a limit. @throws BodyTooLarge */
export async function readBody(request: Request, maxBytes: number): Promise<Uint8Array> {
  const announced = Number(request.headers.get('content-length') ?? 0);
  if (announced > maxBytes) throw new BodyTooLarge();
  const parts: Uint8Array[] = [];
  let bytes = 0;
  if (request.body) {
    for await (const part of request.body as unknown as AsyncIterable<Uint8Array>) {
      bytes += part.length;
      if (bytes > maxBytes) throw new BodyTooLarge();
      parts.push(part);
    }
  }
  return Buffer.concat(parts);
}
