import { expose } from 'comlink';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import type { Sides } from '@tromix/core/sides';
import { compareDumps, type ComparedDumps, type OneDump } from '@tromix/core/threads/compare-dumps';
import { loadDumps } from './load-dumps';

/** The last dump of each of two files held against each other. */
const service = {
  async compare(urls: Sides<string>): Promise<ComparedDumps | { error: string }> {
    try {
      const [before, after] = await Promise.all([lastOf(urls.before), lastOf(urls.after)]);
      return compareDumps({ before, after });
    } catch (cause) {
      if (cause instanceof EvidenceError) return { error: cause.message };
      throw cause;
    }
  }
};
export type CompareThreadsService = typeof service;

async function lastOf(url: string): Promise<OneDump> {
  const { series } = await loadDumps(url);
  return { series, dump: series.dumps.length - 1 };
}

expose(service);
