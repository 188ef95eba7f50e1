import { createHash } from 'node:crypto';
import { mkdtemp, readdir, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { EvidenceStore, TooLarge } from './evidence-store';

let folder: string;
beforeEach(async () => (folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-store-'))));
afterEach(() => rm(folder, { recursive: true, force: true }));

async function* parts(...texts: string[]): AsyncGenerator<Uint8Array> {
  for (const text of texts) yield new TextEncoder().encode(text);
}

describe('EvidenceStore', () => {
  it('keeps a file under the hash of its content, whole', async () => {
    const store = new EvidenceStore(folder);
    const taken = await store.take(parts('abc', 'def'), 100);
    expect(taken.id).toBe(createHash('sha256').update('abcdef').digest('hex'));
    await store.keep(taken);
    const { stream, bytes } = await store.read(taken.id);
    let text = '';
    for await (const part of stream) text += String(part);
    expect([text, bytes]).toEqual(['abcdef', 6]);
  });

  it('leaves nothing behind of a file that is too large or breaks off', async () => {
    const store = new EvidenceStore(folder);
    await expect(store.take(parts('abc', 'def'), 5)).rejects.toBeInstanceOf(TooLarge);
    async function* broken(): AsyncGenerator<Uint8Array> {
      yield new Uint8Array(3);
      throw new Error('gone');
    }
    await expect(store.take(broken(), 100)).rejects.toThrow('gone');
    expect(await readdir(path.join(folder, 'evidence/incoming'))).toEqual([]);
  });

  it('opens nothing but names of evidence', async () => {
    const store = new EvidenceStore(folder);
    for (const id of ['../../etc/passwd', '', 'a'.repeat(63), `${'a'.repeat(64)}/..`])
      await expect(store.read(id)).rejects.toThrow(/no name/);
  });
});
