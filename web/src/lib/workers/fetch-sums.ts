import type { ScopeSlice } from '@tromix/core/profile/sums/scope-sums';
import type { StackDictionary } from '@tromix/core/profile/sums/stack-sums';
import { dictionaryOf, recordsOf, type SentRecord, type SentSlice, type SumsHead } from '$lib/profile-sums';

/** The recordings of a scope, as sums. */
export interface FetchedSums {
  head: SumsHead;
  dictionary: StackDictionary;
  slices: ScopeSlice[];
}

/** Fetches the sums of a scope. @param onpart given what has come so far; the rest waits for it @throws Error where the server does not answer whole */
export async function fetchSums(
  url: string,
  onpart: (fetched: FetchedSums) => Promise<void> = () => Promise.resolve()
): Promise<FetchedSums> {
  const response = await fetch(url);
  if (!response.ok || !response.body)
    throw new Error(`The server answered ${response.status}. Its log says why.`);
  const records = recordsOf(response.body);
  const next = async (): Promise<SentRecord> => {
    const { value, done } = await records.next();
    if (done) throw new Error('The answer broke off. Ask again.');
    return value as SentRecord;
  };
  const head = (await next()).json as SumsHead;
  const dictionary = dictionaryOf(await next());
  const slices: ScopeSlice[] = [];
  while (slices.length < head.slices) {
    slices.push(...slicesOf(await next()));
    if (slices.length < head.slices) await onpart({ head, dictionary, slices });
  }
  return { head, dictionary, slices };
}

function slicesOf({ json, bytes }: SentRecord): ScopeSlice[] {
  let at = 0;
  const take = (length: number): Uint8Array => bytes.subarray(at, (at += length));
  return (json as SentSlice[]).map(({ bytes: length, shares, ...slice }) => ({
    ...slice,
    weights: take(length),
    endpoints: shares.map(({ bytes: ofShare, ...share }) => ({ ...share, weights: take(ofShare) }))
  }));
}
