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
  /** What to do about it. */
  doThis: string;
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
