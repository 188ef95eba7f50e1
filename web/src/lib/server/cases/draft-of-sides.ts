import type { ComparedFigures } from '@tromix/core/compare/comparison';
import { lineName, signedDuration } from '@tromix/core/compare/words';
import type { Sides } from '@tromix/core/sides';
import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import { comparedQuery } from '$lib/compared-scopes';
import { scopeWindow, type Scope } from '$lib/scope';
import { findingsOf } from '../queries/findings';
import { requestsOf } from '../queries/requests';
import { totalIn } from '../queries/rollups';
import { comparedSides } from '../queries/sides/compared-sides';
import { draftOf, pinned, requestEntry, type Draft } from './draft';
import type { NewEntry } from './new-case';

/** Parts named in the sentence of a cause. */
const MOST_PARTS = 3;
const MOST_FINDINGS = 50;

/** Writes the draft of a case about two sides, such as the slow requests of an endpoint (B) against its normal ones (A); null where a side has none. */
export async function draftOfSides(scopes: Sides<Scope>, nowMs: number): Promise<Draft | null> {
  const { compared } = await comparedSides(scopes, [], nowMs);
  if (compared.requests.before === 0 || compared.requests.after === 0) return null;
  const { service, endpoint } = scopes.after;
  const about = endpoint || service || 'this';
  const [slow, normal, found] = await Promise.all([
    typicalEntry(scopes.after, 'slow request', nowMs),
    typicalEntry(scopes.before, 'normal request', nowMs),
    findingBehind(scopes.after, compared, nowMs)
  ]);
  const address = `/compare?${comparedQuery(scopes)}&show=why`;
  const noticed = pinned('Noticed', {
    kind: 'comparison',
    role: 'noticed',
    sentence: `${formatCount(compared.requests.after)} requests of side B take ${formatDuration(compared.figures.after.median)} at the median, ${formatCount(compared.requests.before)} of side A ${formatDuration(compared.figures.before.median)}.`,
    figures: [
      { name: 'A, median', value: formatDuration(compared.figures.before.median) },
      { name: 'B, median', value: formatDuration(compared.figures.after.median) }
    ],
    address
  });
  const parts = pinned('What makes the difference', {
    kind: 'comparison',
    role: found ? '' : 'cause',
    ...causeFacts(compared),
    address
  });
  const own = [noticed, slow, normal, parts].filter((entry) => entry !== null);
  return {
    question: `Why is ${about} slow?`,
    // What a finding's draft says of noticing and of single requests is said here of the sides.
    entries: [...own, ...(found?.entries.filter(({ pin }) => pin === null || pin.role === 'cause') ?? [])]
  };
}

/** The draft about the costliest finding that only the slower side has, or has more often; null where there is none. */
async function findingBehind(scope: Scope, compared: ComparedFigures, nowMs: number): Promise<Draft | null> {
  const behind = new Set(
    compared.findings
      .filter(({ state }) => state === 'new' || state === 'more frequent')
      .map(({ rule, subject }) => JSON.stringify([rule, subject]))
  );
  if (behind.size === 0) return null;
  const plain: Scope = { ...scope, slower: undefined, faster: undefined };
  const window = scopeWindow(plain, nowMs);
  const { exclusiveNs } = await totalIn(plain, window, nowMs);
  const groups = await findingsOf(plain, window, nowMs, exclusiveNs, { limit: MOST_FINDINGS, aside: true });
  const finding = groups.find(({ rule, subject }) => behind.has(JSON.stringify([rule, subject])));
  return finding ? draftOf(finding, plain, nowMs) : null;
}

async function typicalEntry(
  scope: Scope,
  role: 'slow request' | 'normal request',
  nowMs: number
): Promise<NewEntry | null> {
  const { typical } = await requestsOf(scope, { sort: 'duration', groupBy: '', columns: [] }, nowMs);
  if (!typical) return null;
  const [traceId, spanId] = typical.split('/');
  return requestEntry({ traceId, spanId }, role, scope);
}

function causeFacts({ ledgers }: ComparedFigures): {
  sentence: string;
  figures: { name: string; value: string }[];
} {
  const { lines, differenceNs } = ledgers.part;
  // The greatest stand first, whatever their sign.
  const most = lines.slice(0, MOST_PARTS);
  const share = (ns: number): string => (differenceNs === 0 ? '' : ` (${formatShare(ns / differenceNs)})`);
  return {
    sentence: `An average request of B takes ${formatDuration(Math.abs(differenceNs))} ${differenceNs < 0 ? 'less' : 'longer'} than one of A. Most of it: ${most
      .map((line) => `${lineName(line)} ${signedDuration(line.differenceNs)}${share(line.differenceNs)}`)
      .join('; ')}.`,
    figures: lines
      .slice(0, 8)
      .map((line) => ({ name: lineName(line).slice(0, 900), value: signedDuration(line.differenceNs) }))
  };
}
