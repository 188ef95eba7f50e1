import { tokenize, type Token } from './tokens';

/** After these a table is named. SQL:2016, 7.6 (from clause) and 14.11 to 14.14 (insert, update, merge). */
const BEFORE_TABLE = new Set(['from', 'join', 'into', 'update']);

/**
 * The tables a statement names, without their schema, each once and in the order of the alphabet. What is no SQL names none.
 * @example tablesOf('select * from berth b join ship on …') // ['berth', 'ship']
 */
export function tablesOf(statement: string): string[] {
  const tokens = tokenize(statement, 'generic');
  const tables = new Set<string>();
  for (let at = 0; at < tokens.length; at++) {
    if (!isWord(tokens[at]) || !BEFORE_TABLE.has(tokens[at].text.toLowerCase())) continue;
    let name = tokens[at + 1];
    // A qualified name: the last part is the table.
    for (let next = at + 2; tokens[next]?.text === '.' && tokens[next + 1]; next += 2)
      name = tokens[next + 1];
    if (name && (isWord(name) || name.kind === 'quoted')) tables.add(bare(name.text));
  }
  return [...tables].sort();
}

const isWord = ({ kind }: Token): boolean => kind === 'word';
const bare = (text: string): string => text.replace(/^["`[]|["`\]]$/g, '').toLowerCase();
