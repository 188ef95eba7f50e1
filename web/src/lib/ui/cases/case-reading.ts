import { type Case, type Pin } from '@tromix/core/case/case';
import { words, type Words } from '@tromix/core/text/words';

const figureOf = (pin: Pin | undefined, name: string): string =>
  pin?.figures.find((figure) => figure.name === name)?.value ?? '';

/** How far the case has come, in the words and figures of its own pins. */
export function caseReading({ entries }: Pick<Case, 'entries'>): Words[] {
  const pins = entries.flatMap(({ pin }) => pin ?? []);
  const cause = pins.find(({ role }) => role === 'cause');
  const proof = entries.findLast(({ pin }) => pin?.role === 'proof');
  const expected = figureOf(
    pins.find((pin) => figureOf(pin, 'should take') !== ''),
    'should take'
  );
  const measured = figureOf(proof?.pin ?? undefined, 'B, median');
  const sentences: Words[] = [];
  if (!cause) sentences.push(['No cause is stated yet.']);
  else
    sentences.push(
      proof ? ['The cause is stated, and a comparison after the fix is here.'] : ['The cause is stated.']
    );
  if (expected && measured)
    // Of different requests: a prediction is about those it was found in, a comparison about its own.
    sentences.push(
      words`Expected of the requests it was found in: ${[expected]}. The comparison measured ${[measured]} at the median, over its own requests.`
    );
  else if (expected)
    sentences.push(words`Without it the requests it was found in should take ${[expected]}.`);
  return sentences;
}

/** The first request of a case that has a role, as the end of its address; '' where none is pinned. */
export function requestOf(
  { entries }: Pick<Case, 'entries'>,
  role: 'slow request' | 'normal request'
): string {
  const pinned = entries.find(({ pin }) => pin?.role === role)?.pin;
  return /^\/requests\/([0-9a-f]{32}\/[0-9a-f]{16})/.exec(pinned?.address ?? '')?.[1] ?? '';
}
