import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { inflate } from './inflate';

const LIMITS = { maxBytes: 1 << 20, setting: 'a setting' };
const bytes = (buffer: Uint8Array): Uint8Array<ArrayBuffer> => new Uint8Array(buffer);
/** What comes of it, in words. */
async function outcome(input: Uint8Array): Promise<string> {
  try {
    return `${(await inflate(bytes(input), LIMITS)).length} bytes`;
  } catch (cause) {
    return (cause as EvidenceError).code;
  }
}
function bySlowWay(input: Uint8Array): string {
  try {
    return `${gunzip(input, LIMITS).length} bytes`;
  } catch (cause) {
    return (cause as EvidenceError).code;
  }
}

describe('inflating', () => {
  it('gives back what Node’s zlib deflated, and what is not gzip as it is', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uint8Array({ maxLength: 3000 }),
        fc.integer({ min: 1, max: 60 }),
        async (part, times) => {
          const content = bytes(Buffer.concat(Array.from({ length: times }, () => part)));
          expect(await inflate(bytes(gzipSync(content)), LIMITS)).toEqual(content);
        }
      ),
      { numRuns: 60 }
    );
    const plain = bytes(Buffer.from('a;b 1\n'));
    expect(await inflate(plain, LIMITS)).toBe(plain);
  });
  it('reads several members, as tools write them one behind the other', async () => {
    const two = Buffer.concat([gzipSync('first '), gzipSync('second')]);
    expect(await outcome(two)).toBe(bySlowWay(two));
  });
  it('stops at the limit, whatever size the data claims to have', async () => {
    const large = gzipSync(Buffer.alloc(2 << 20));
    expect(await outcome(large)).toBe('inflated-too-large');
    // A bomb that says it is small.
    large.writeUInt32LE(10, large.length - 4);
    expect(await outcome(large)).toBe('inflated-too-large');
  });
  it('says of damaged and cut data what the slower way says', async () => {
    const whole = gzipSync(Buffer.from('vessel '.repeat(5000)));
    for (const cut of [2, 5, 12, 17, 18, 40, whole.length - 9, whole.length - 1]) {
      const input = whole.subarray(0, cut);
      expect(await outcome(input)).toBe(bySlowWay(input));
    }
    const damaged = Buffer.from(whole);
    damaged[20] ^= 0xff;
    damaged[21] ^= 0xff;
    expect(await outcome(damaged)).toBe(bySlowWay(damaged));
  });
});
