import type { Words } from '../text/words';
import type { ManyFacts } from './over-many-words';

/** A number a rule goes by, and why it is that one. */
export interface Threshold {
  name: string;
  value: string;
  why: string;
}

/** What a rule does, in words for people: its page is made of them. */
export interface RuleText<Name extends string = string> {
  rule: Name;
  name: string;
  /** What it looks for. */
  looksFor: string;
  thresholds: readonly Threshold[];
  /** Why that makes things slow. */
  why: string;
  /** What to do about it: the alternatives in the order in which they are to be weighed. */
  doThis: readonly string[];
  /** Evidence of another kind that would show more, where there is one. */
  seeAlso?: 'profile' | 'threads';
  /** How the time was spent, as in “spent 3 s …”; only for loops of calls. */
  spent?: (subject: string) => Words;
  /** What was found over many requests, in one sentence; else the sentence of a typical request stands for it. */
  overMany?: (facts: ManyFacts) => Words;
  /** What many of these are called together; else what a typical one is called. */
  manyTitle?: string;
  /** Figures of a finding that show how its calls grow with the data. */
  grows?: { calls: string; rows: string };
}

/** A rule: its words, and how it finds. */
export interface DefinedRule<Name extends string, Context, Found> extends RuleText<Name> {
  find: (context: Context) => Found[];
}

/** Defines a rule: all there is to it stands in one object. */
export const defineRule = <const Name extends string, Context, Found>(
  rule: DefinedRule<Name, Context, Found>
): DefinedRule<Name, Context, Found> => rule;

/** What rules found, each under its rule's name. */
export const findBy = <Name extends string, Context, Found>(
  rules: readonly DefinedRule<Name, Context, Found>[],
  context: Context
): (Found & { rule: Name })[] =>
  rules.flatMap(({ rule, find }) => find(context).map((found) => ({ ...found, rule })));
