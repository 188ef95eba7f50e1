export type Dialect = 'postgresql' | 'mysql' | 'mssql' | 'sqlite' | 'oracle' | 'generic';

export type TokenKind = 'word' | 'quoted' | 'literal' | 'parameter' | 'operator';

export interface Token {
  kind: TokenKind;
  text: string;
}

/** Reads `db.system.name` / `db.system` as a dialect (OpenTelemetry semantic conventions' well-known values). */
export function dialectOf(system: string): Dialect {
  const name = system.toLowerCase();
  if (/postgres|cockroach|redshift/.test(name)) return 'postgresql';
  if (/mysql|mariadb/.test(name)) return 'mysql';
  if (/mssql|sql_?server/.test(name)) return 'mssql';
  if (name.includes('sqlite')) return 'sqlite';
  if (name.includes('oracle')) return 'oracle';
  return 'generic';
}

const LETTER = /\p{L}/u;
const LETTER_OR_NUMBER = /[\p{L}\p{N}]/u;

const isDigit = (c: string | undefined): boolean => c !== undefined && c >= '0' && c <= '9';
const isAsciiLetter = (c: string): boolean => (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
/** ASCII first: nearly every character of a statement is. */
const isWordStart = (c: string | undefined): boolean =>
  c !== undefined && (isAsciiLetter(c) || c === '_' || (c > '\u007f' && LETTER.test(c)));
const isWordPart = (c: string | undefined): boolean =>
  c !== undefined &&
  (isAsciiLetter(c) ||
    isDigit(c) ||
    c === '_' ||
    c === '$' ||
    c === '#' ||
    (c > '\u007f' && LETTER_OR_NUMBER.test(c)));
const isSpace = (c: string): boolean =>
  c === ' ' ||
  c === '\n' ||
  c === '\t' ||
  c === '\r' ||
  c === '\f' ||
  c === '\v' ||
  (c > '\u007f' && /\s/.test(c));
const NUMBER =
  /(?:0[xX][0-9a-fA-F_]+|0[oO][0-7_]+|0[bB][01_]+|(?:[0-9][0-9_]*\.?[0-9_]*|\.[0-9][0-9_]*)(?:[eE][+-]?[0-9]+)?)/y;
const DOLLAR_QUOTE = /\$(?:[\p{L}_][\p{L}\p{N}_]*)?\$/uy;
const OPERATOR =
  /(?:::|<=>|<>|!=|<=|>=|\|\|\/|\|\||->>|->|#>>|#>|@>|<@|:=|=>|!~~\*|!~\*|!~|~\*|&&|\?\||\?&|[-+*/%=<>~!^&|.,;()[\]{}:@#?\\$])/y;

/**
 * Splits a statement into tokens; comments and white space fall away. Never fails: an unclosed string or comment
 * runs to the end. Lexical rules: SQL:2016 5.2–5.4, and each dialect's own (PostgreSQL 4.1, MySQL 11.1, T-SQL identifiers).
 */
export function tokenize(sql: string, dialect: Dialect): Token[] {
  const tokens: Token[] = [];
  const n = sql.length;
  // Of a dialect that is not known the safer reading: what may be a literal is one.
  const backslash = dialect === 'mysql' || dialect === 'generic';
  const doubleQuotedString = dialect === 'mysql' || dialect === 'generic';
  let at = 0;
  const push = (kind: TokenKind, to: number): void => {
    tokens.push({ kind, text: sql.slice(at, to) });
    at = to;
  };
  while (at < n) {
    const c = sql[at];
    const d = sql[at + 1];
    if (isSpace(c)) at++;
    else if (c === '-' && d === '-') at = lineEnd(sql, at);
    else if (c === '#' && dialect === 'mysql') at = lineEnd(sql, at);
    else if (c === '/' && d === '*') at = commentEnd(sql, at, dialect === 'postgresql');
    else if (c === "'") push('literal', quoteEnd(sql, at, "'", backslash));
    else if (c === '"') {
      const literal = doubleQuotedString || (dialect === 'sqlite' && comparesWith(tokens));
      push(literal ? 'literal' : 'quoted', quoteEnd(sql, at, '"', backslash));
    } else if (c === '`') push('quoted', quoteEnd(sql, at, '`', false));
    else if (c === '[' && bracketQuotes(dialect, tokens)) push('quoted', bracketEnd(sql, at));
    else if (oracleQuote(sql, at, dialect)) push('literal', oracleQuote(sql, at, dialect));
    else if (/[eE]/.test(c) && d === "'" && (dialect === 'postgresql' || dialect === 'generic'))
      push('literal', quoteEnd(sql, at + 1, "'", true));
    else if (/[uU]/.test(c) && d === '&' && /['"]/.test(sql[at + 2] ?? '')) {
      const quote = sql[at + 2];
      push(quote === "'" ? 'literal' : 'quoted', quoteEnd(sql, at + 2, quote, false));
    } else if (/[nNbBxX]/.test(c) && d === "'") push('literal', quoteEnd(sql, at + 1, "'", backslash));
    else if (c === '$' && dialect !== 'mysql' && dialect !== 'mssql' && match(DOLLAR_QUOTE, sql, at)) {
      const tag = match(DOLLAR_QUOTE, sql, at);
      const close = sql.indexOf(tag, at + tag.length);
      push('literal', close < 0 ? n : close + tag.length);
    } else if (c === '$' && isDigit(d)) push('parameter', digitsEnd(sql, at + 1));
    else if (c === '?' && dialect === 'postgresql' && (d === '|' || d === '&')) push('operator', at + 2);
    else if (c === '?') push('parameter', digitsEnd(sql, at + 1));
    else if (c === ':' && d !== ':' && d !== '=' && isWordPart(d) && !insideSlice(tokens))
      push('parameter', wordEnd(sql, at + 1));
    else if (c === '@' && d === '@') push('word', wordEnd(sql, at + 2));
    else if (c === '@' && isWordStart(d)) push('parameter', wordEnd(sql, at + 1));
    else if (c === '%' && (d === 's' || d === '(') && dialect !== 'generic' && pythonParameter(sql, at))
      push('parameter', pythonParameter(sql, at));
    else if (isDigit(c) || (c === '.' && isDigit(d) && !endsName(tokens))) {
      push('literal', at + (match(NUMBER, sql, at).length || 1));
    } else if (isWordStart(c)) push('word', wordEnd(sql, at));
    else push('operator', at + (match(OPERATOR, sql, at).length || 1));
  }
  return tokens;
}

function match(pattern: RegExp, text: string, at: number): string {
  pattern.lastIndex = at;
  return pattern.exec(text)?.[0] ?? '';
}

function lineEnd(sql: string, at: number): number {
  const end = sql.indexOf('\n', at);
  return end < 0 ? sql.length : end + 1;
}

/** PostgreSQL's block comments nest (4.1.5); the others' do not. */
function commentEnd(sql: string, from: number, nests: boolean): number {
  let depth = 1;
  let at = from + 2;
  while (at < sql.length && depth > 0) {
    if (sql[at] === '*' && sql[at + 1] === '/') {
      depth--;
      at += 2;
    } else if (nests && sql[at] === '/' && sql[at + 1] === '*') {
      depth++;
      at += 2;
    } else at++;
  }
  return at;
}

function quoteEnd(sql: string, from: number, quote: string, backslash: boolean): number {
  let at = from + 1;
  while (at < sql.length) {
    if (backslash && sql[at] === '\\') at += 2;
    else if (sql[at] === quote && sql[at + 1] === quote) at += 2;
    else if (sql[at] === quote) return at + 1;
    else at++;
  }
  return sql.length;
}

/** SQLite takes a double-quoted name it does not know for a string (sqlite.org, "Double-quoted String Literals Are Accepted"): where a value stands, it is one. */
function comparesWith(before: readonly Token[]): boolean {
  const last = before.at(-1);
  return (
    (last?.kind === 'operator' && /^(?:=|==|<>|!=|<|>|<=|>=)$/.test(last.text)) ||
    (last?.kind === 'word' && /^(?:like|glob|match|regexp|is|not)$/i.test(last.text))
  );
}

const CLOSING: Record<string, string> = { '[': ']', '{': '}', '(': ')', '<': '>' };

/** Oracle's `q'[…]'` and `nq'…'` (Database SQL Language Reference, "Text Literals"): where it ends, 0 where it is none. */
function oracleQuote(sql: string, at: number, dialect: Dialect): number {
  if (dialect !== 'oracle' && dialect !== 'generic') return 0;
  const begin = /^[nN]?[qQ]'(\S)/.exec(sql.slice(at, at + 4));
  if (!begin) return 0;
  const end = sql.indexOf(`${CLOSING[begin[1]] ?? begin[1]}'`, at + begin[0].length);
  return end < 0 ? sql.length : end + 2;
}

function bracketEnd(sql: string, from: number): number {
  let at = from + 1;
  while (at < sql.length) {
    if (sql[at] === ']' && sql[at + 1] === ']') at += 2;
    else if (sql[at] === ']') return at + 1;
    else at++;
  }
  return sql.length;
}

/** `[name]` quotes in T-SQL and SQLite; elsewhere, and after a name or a closing bracket, it is a subscript. */
function bracketQuotes(dialect: Dialect, before: readonly Token[]): boolean {
  if (dialect === 'mssql') return true;
  if (dialect !== 'sqlite' && dialect !== 'generic') return false;
  const last = before.at(-1);
  return last === undefined || last.text === '.' || last.text === ',' || last.text === '(' || isKeyword(last);
}

const BEFORE_NAME = new Set([
  'select',
  'from',
  'join',
  'into',
  'update',
  'table',
  'by',
  'as',
  'on',
  'and',
  'or',
  'where',
  'set'
]);
function isKeyword(token: Token): boolean {
  return token.kind === 'word' && BEFORE_NAME.has(token.text.toLowerCase());
}

function wordEnd(sql: string, from: number): number {
  let at = from;
  while (at < sql.length && isWordPart(sql[at])) at++;
  return at;
}

function digitsEnd(sql: string, from: number): number {
  let at = from;
  while (at < sql.length && isDigit(sql[at])) at++;
  return at;
}

/** Inside `a[1:n]` a colon is a slice, not a named parameter. */
function insideSlice(tokens: readonly Token[]): boolean {
  for (let i = tokens.length - 1; i >= 0 && i > tokens.length - 6; i--) {
    if (tokens[i].text === ']') return false;
    if (tokens[i].text === '[') return true;
  }
  return false;
}

/** `%s` and `%(name)s` of Python drivers (PEP 249 paramstyles format and pyformat): the end, 0 where it is none. */
function pythonParameter(sql: string, at: number): number {
  const found = /^%(?:s\b|\([\p{L}\p{N}_]+\)s)/u.exec(sql.slice(at, at + 80));
  return found ? at + found[0].length : 0;
}

function endsName(tokens: readonly Token[]): boolean {
  const last = tokens.at(-1);
  return last !== undefined && (last.kind === 'word' || last.kind === 'quoted');
}
