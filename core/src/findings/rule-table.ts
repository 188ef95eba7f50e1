import type { RuleText } from './define-rule';

/** Rules as a table in Markdown, one a row: its name, what it looks for, and its thresholds. */
export function ruleTable(rules: readonly RuleText[]): string {
  const cell = (text: string): string => text.replace(/[\u00a0\u202f]/g, ' ').replaceAll('|', '\\|');
  const rows = rules.map(({ rule, looksFor, thresholds }) => [
    `\`${rule}\``,
    looksFor,
    thresholds.map(({ name, value }) => `${name}: ${value}`).join('; ')
  ]);
  return [['rule', 'looks for', 'from'], ['---', '---', '---'], ...rows]
    .map((cells) => `| ${cells.map(cell).join(' | ')} |`)
    .join('\n');
}
