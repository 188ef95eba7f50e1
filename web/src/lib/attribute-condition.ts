/** Conditions on attributes of requests as they stand in the URL: `name=value`, with a sign before the `=` for other comparisons. */

/** How a value is compared, by the sign in the URL. Parts of a text are found whatever their case. */
export const COMPARISONS = {
  '=': 'is',
  '!=': 'is not',
  '~=': 'contains',
  '!~=': 'does not contain',
  '^=': 'starts with',
  '!^=': 'does not start with'
} as const;
export type Comparison = keyof typeof COMPARISONS;

export interface AttributeCondition {
  name: string;
  comparison: Comparison;
  value: string;
}

/** Reads a condition; null for what is none. */
export function readCondition(text: string): AttributeCondition | null {
  const [, name, sign, value] = /^([^=]+?)(!?[~^]?=)(.*)$/s.exec(text) ?? [];
  return name ? { name, comparison: sign as Comparison, value } : null;
}

export const writeCondition = ({ name, comparison, value }: AttributeCondition): string =>
  `${name}${comparison}${value}`;

export function conditionWords(text: string): string {
  const condition = readCondition(text);
  return condition ? `${condition.name} ${COMPARISONS[condition.comparison]} ${condition.value}` : text;
}

/** The conditions with one more. An attribute has one value: what it is said to be replaces what it was said to be. */
export function withCondition(conditions: readonly string[], added: AttributeCondition): string[] {
  const text = writeCondition(added);
  const isReplaced = (other: string): boolean =>
    other === text || (added.comparison === '=' && other.startsWith(`${added.name}=`));
  return [...conditions.filter((other) => !isReplaced(other)), text];
}

/** The conditions with what the value of an attribute is. */
export const withValue = (conditions: readonly string[], name: string, value: string): string[] =>
  withCondition(conditions, { name, comparison: '=', value });
