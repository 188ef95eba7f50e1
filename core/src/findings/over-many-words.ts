import { formatCount, formatShare } from '../text/format';
import { words, type Words } from '../text/words';

/** What is known of a finding over many requests of one endpoint. */
export interface ManyFacts {
  endpoint: string;
  /** What is equal for all of them: a fingerprint, a span's name. */
  subject: string;
  /** Cost, as a part of all time in the scope. */
  share: number;
  /** Calls in a typical request; null where that is not known. */
  typicalCalls: number | null;
}

/** ` It costs 31 % of all the time spent here.` @param what what costs */
export const costs = ({ share }: Pick<ManyFacts, 'share'>, what = 'It costs'): Words =>
  words` ${what} ${[formatShare(share)]} of all the time spent here.`;

/** Of a loop: how often the same call is made in one request. */
export const makesTheSameCall = (facts: ManyFacts): Words => [
  ...words`${[facts.endpoint]} makes the same call `,
  ...(facts.typicalCalls === null ? ['very often'] : words`${[`${formatCount(facts.typicalCalls)} times`]}`),
  ' per request.',
  ...costs(facts)
];
