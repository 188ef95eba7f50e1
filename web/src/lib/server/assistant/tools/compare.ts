import { lineName, sureSentences, verdictSentence } from '@tromix/core/compare/words';
import { ruleText } from '@tromix/core/findings/all-rules';
import { eachSide, type Sides } from '@tromix/core/sides';
import { signedDuration } from '@tromix/core/compare/words';
import { formatCount, formatShare } from '@tromix/core/text/format';
import * as v from 'valibot';
import { comparedQuery } from '$lib/compared-scopes';
import { scopeFrom, scopeWindow, type Scope } from '$lib/scope';
import { loadRun } from '../../queries/load-runs';
import { presetOfRelease, presetsOfRun } from '../../queries/sides/presets';
import { storedSide } from '../../queries/sides/stored-side';
import { callEvidenceReader } from '../../workers';
import { AskInstead, oneLine } from '../answer';
import { SCOPE, scopeOf, scopeWords, type ScopeInput } from '../scope-input';
import { tool } from '../tool';

const COMPARE_MS = 60_000;
const MOST_LINES = 12;
const MOST_FINDINGS = 10;
const side = (what: string) => v.optional(v.pipe(v.strictObject(SCOPE), v.description(what)));

export const compareTool = tool({
  name: 'compare',
  says: 'Two sides held against each other: what changed, how sure that is (95 % intervals), which parts of the request make the difference (they add up), findings gone and new. Give "release" for a release against the one before, "load_run" for a run against the one before with the same steps, or "a" (before) and "b" (after).',
  input: {
    release: v.optional(
      v.pipe(
        v.string(),
        v.maxLength(300),
        v.description('With "service": this release against the one before it.')
      )
    ),
    service: v.optional(v.pipe(v.string(), v.maxLength(300))),
    endpoint: v.optional(
      v.pipe(v.string(), v.maxLength(500), v.description('Narrows the release or load run to one endpoint.'))
    ),
    load_run: v.optional(v.pipe(v.number(), v.integer())),
    a: side('Side A, before: service, endpoint, host, release, load_run, from, to.'),
    b: side('Side B, after.')
  },
  async answer(input, { origin, nowMs }) {
    const scopes = await sidesOf(input, nowMs);
    const [before, after] = await Promise.all([
      storedSide(scopes.before, [], nowMs),
      storedSide(scopes.after, [], nowMs)
    ]);
    const compared = await callEvidenceReader((reader) => reader.compare({ before, after }), COMPARE_MS);
    for (const [which, count] of Object.entries(compared.requests))
      if (count === 0)
        throw new AskInstead(
          `Side ${which === 'before' ? 'a' : 'b'} has no requests: ${scopeWords(scopes[which as keyof Sides<Scope>])}.`
        );
    const { lines, differenceNs } = compared.ledgers.part;
    return [
      `A: ${scopeWords(scopes.before)}. B: ${scopeWords(scopes.after)}.`,
      `**${verdictSentence(compared)}**`,
      ...sureSentences(compared),
      `Parts that make the difference of the averages (${signedDuration(differenceNs)}), the greatest first:`,
      ...lines
        .slice(0, MOST_LINES)
        .map(
          (line) =>
            `- ${oneLine(lineName(line))}: ${signedDuration(line.differenceNs)} (${signedDuration(line.byHowOftenNs)} by how often, ${signedDuration(line.byHowLongEachNs)} by how long each); ${calls(line.perRequest.before.calls)} → ${calls(line.perRequest.after.calls)} a request${line.clear ? '' : ', not clear'}`
        ),
      ...compared.findings
        .filter(({ state }) => state !== 'still there')
        .slice(0, MOST_FINDINGS)
        .map(
          ({ rule, subject, state, found }) =>
            `- finding ${ruleText(rule)?.name ?? rule} (${oneLine(subject, 120)}): ${state}, ${formatCount(found.before)} → ${formatCount(found.after)} requests`
        ),
      compared.failed.before + compared.failed.after > 0
        ? `Failed: ${formatShare(compared.failed.before / compared.requests.before)} → ${formatShare(compared.failed.after / compared.requests.after)}.`
        : '',
      `${origin}/compare?${comparedQuery(scopes)}`
    ];
  }
});

const calls = (count: number): string => `${Number(count.toPrecision(3))} ×`;

interface SidesInput {
  release?: string;
  service?: string;
  endpoint?: string;
  load_run?: number;
  a?: ScopeInput;
  b?: ScopeInput;
}

/** The two scopes that were asked about, whichever way. */
async function sidesOf(
  { release, service, endpoint, load_run, a, b }: SidesInput,
  nowMs: number
): Promise<Sides<Scope>> {
  if (a && b) return eachSide({ before: a, after: b }, (one) => scopeOf(one, nowMs));
  if (load_run !== undefined) {
    const run = await loadRun(load_run);
    if (!run) throw new AskInstead(`There is no load run ${load_run}. Ask list_evidence with kind "load".`);
    const presets = await presetsOfRun(scopeFrom(new URLSearchParams()), run);
    const [preset] = presets.filter(
      ({ sides }) => endpoint === undefined || sides.after.endpoint === endpoint
    );
    if (!preset) throw new AskInstead('No earlier load run took the same steps. Give "a" and "b".');
    return preset.sides;
  }
  if (release !== undefined && service !== undefined) {
    const all = { ...scopeOf({ service, endpoint }, nowMs), from: 0, to: nowMs };
    const preset = await presetOfRelease(all, release, scopeWindow(all, nowMs), nowMs);
    if (!preset)
      throw new AskInstead(
        `No release ${oneLine(release)} of ${oneLine(service)} that came after another. Ask list_endpoints for what there is, or give "a" and "b".`
      );
    return preset.sides;
  }
  throw new AskInstead('Give "release" with "service", or "load_run", or both "a" and "b".');
}
