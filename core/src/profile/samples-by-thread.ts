import type { Profile } from './model';

/** Numbers of the samples of each thread, in time order: those of one follow one another, those of several overlap. */
export function samplesByThread({
  sampleNode,
  sampleThread,
  threads
}: Pick<Profile, 'sampleNode' | 'sampleThread' | 'threads'>): Uint32Array[] {
  if (!sampleThread) return [Uint32Array.from(sampleNode, (_, i) => i)];
  const counts = new Uint32Array(threads.length);
  for (const thread of sampleThread) counts[thread]++;
  const samples = Array.from(counts, (count) => new Uint32Array(count));
  counts.fill(0);
  sampleThread.forEach((thread, i) => (samples[thread][counts[thread]++] = i));
  return samples;
}
