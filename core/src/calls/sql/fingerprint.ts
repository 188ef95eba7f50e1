import { KEYWORDS } from './keywords';
import { NUMBER_PLACE, skeletonOf, STRING_PLACE } from './skeleton';
import { tokenize, type Dialect, type Token } from './tokens';

export interface SqlFingerprint {
  /** The statement with its literals and parameters as `?`; equal for statements alike but for their literals. */
  text: string;
  /** What was masked, in order: literal texts as written. Parameters leave nothing here. */
  literals: string[];
  /** Parameters (`?`, `$1`, `:name`, `@p`) seen. */
  parameters: number;
  /** False for a text that ends in the middle: senders cut long ones, and what they cut away is not known. */
  whole: boolean;
}

/**
 * Groups SQL statements alike but for their literals: comments and white space folded, key words in lower case, literals
 * and parameters to `?`, `IN (…)` lists of any length and `VALUES` rows of any number alike, quoted identifiers kept.
 * Definition: docs/engine.md, "Fingerprints"; checked against the grouping of the PostgreSQL parser on a corpus.
 */
export function fingerprintSql(sql: string, dialect: Dialect): SqlFingerprint {
  // Drivers send the same text with parameters again and again.
  const known = recent.get(dialect, sql);
  if (known) return known;
  const found = alike(sql, dialect) ?? readTokens(sql, dialect);
  recent.set(dialect, sql, found);
  return found;
}

/** Statements with literals differ each time; what is left without them repeats. */
function alike(sql: string, dialect: Dialect): SqlFingerprint | null {
  if (sql.length > MAX_RECENT_LENGTH) return null;
  const skeleton = skeletonOf(sql);
  if (!skeleton || skeleton.numbersAndStrings.length === 0) return null;
  let known = skeletons.get(dialect, skeleton.text);
  if (!known) {
    known = readTokens(skeleton.text, dialect);
    skeletons.set(dialect, skeleton.text, known);
  }
  // A dialect may read a place otherwise, or a number that was left in as one.
  const isPlace = (text: string): boolean => PLACES.has(text);
  if (known.literals.filter(isPlace).length !== skeleton.numbersAndStrings.length) return null;
  let next = 0;
  const literals = known.literals.map((text) =>
    isPlace(text) ? `${text.startsWith('-') ? '-' : ''}${skeleton.numbersAndStrings[next++]}` : text
  );
  return { ...known, literals };
}

const PLACES = new Set([NUMBER_PLACE, STRING_PLACE, `-${NUMBER_PLACE}`, `-${STRING_PLACE}`]);
const MAX_RECENT = 2000;
const MAX_RECENT_LENGTH = 4000;

/** What was found for the statements seen last, bounded. */
class Recent {
  readonly #byDialect = new Map<Dialect, Map<string, SqlFingerprint>>();

  get(dialect: Dialect, sql: string): SqlFingerprint | undefined {
    return this.#byDialect.get(dialect)?.get(sql);
  }

  set(dialect: Dialect, sql: string, found: SqlFingerprint): void {
    if (sql.length > MAX_RECENT_LENGTH) return;
    let texts = this.#byDialect.get(dialect);
    if (!texts) this.#byDialect.set(dialect, (texts = new Map<string, SqlFingerprint>()));
    if (texts.size >= MAX_RECENT) texts.clear();
    // A part of a larger text would keep all of it in memory: a copy stands for itself.
    texts.set(` ${sql}`.slice(1), found);
  }
}
const recent = new Recent();
const skeletons = new Recent();

/** The fingerprint by way of the tokens, remembered nowhere. */
export function readTokens(sql: string, dialect: Dialect): SqlFingerprint {
  const tokens = tokenize(sql, dialect);
  const literals: string[] = [];
  let parameters = 0;
  const masked: Token[] = [];
  for (let i = 0; i < tokens.length; i++) {
    const token = tokens[i];
    const last = masked.at(-1);
    if (token.kind === 'word' && isTruthValue(token.text, last)) {
      literals.push(token.text.toLowerCase());
      masked.push({ kind: 'literal', text: '?' });
    } else if (token.kind === 'word') {
      masked.push({ kind: 'word', text: foldWord(token.text, last, tokens[i + 1]) });
    } else if (token.kind === 'literal') {
      // Adjacent strings are one literal (SQL:2016 5.3).
      const goesOn = token.text.startsWith("'") && last?.kind === 'literal';
      literals.push(goesOn ? token.text : dropSign(masked) + token.text);
      if (goesOn) continue;
      masked.push({ kind: 'literal', text: '?' });
    } else if (token.kind === 'parameter') {
      parameters++;
      dropSign(masked);
      masked.push({ kind: 'literal', text: '?' });
    } else masked.push(token);
  }
  while (masked.at(-1)?.text === ';') masked.pop();
  return { text: write(foldRows(foldLists(masked))), literals, parameters, whole: isWhole(sql, tokens) };
}

/** Ends in the middle: an open bracket or quote, or the dots that stand for what was cut away. */
function isWhole(sql: string, tokens: readonly Token[]): boolean {
  if (/(?:\.\.\.|…)\s*$/.test(sql)) return false;
  let open = 0;
  for (const { text } of tokens) open += text === '(' ? 1 : text === ')' ? -1 : 0;
  const last = tokens.at(-1);
  const quote = /^[eEnNbBxX]?(['"`])/.exec(last?.text ?? '')?.[1];
  return open <= 0 && (quote === undefined || (last!.text.length > 1 && last!.text.endsWith(quote)));
}

/** TRUE and FALSE are literals, but for `is [not] true`, which is a test of its own. A name behind a dot is a column. */
function isTruthValue(text: string, before: Token | undefined): boolean {
  if (!/^(?:true|false)$/i.test(text) || before?.text === '.') return false;
  return !(before?.kind === 'word' && (before.text === 'is' || before.text === 'not'));
}

/** Key words and the names of functions, whose case no dialect minds. After INTO a name with a bracket is a table. */
function foldWord(text: string, before: Token | undefined, after: Token | undefined): string {
  const lower = text.toLowerCase();
  if (before?.text === '.') return text;
  const isFunction = after?.text === '(' && before?.text !== 'into';
  return KEYWORDS.has(lower) || isFunction ? lower : text;
}

const BEFORE_OPERAND = new Set([
  '(',
  ',',
  '=',
  '<',
  '>',
  '<=',
  '>=',
  '<>',
  '!=',
  '+',
  '-',
  '*',
  '/',
  '%',
  '||',
  '[',
  ':=',
  '->',
  '->>'
]);

/** A sign that cannot be a subtraction belongs to the literal: `= -5` is alike `= 5`. @returns a minus that was dropped. */
function dropSign(masked: Token[]): '-' | '' {
  const sign = masked.at(-1);
  if (sign?.kind !== 'operator' || (sign.text !== '-' && sign.text !== '+')) return '';
  const before = masked.at(-2);
  const operandFollows =
    before === undefined ||
    (before.kind === 'operator' && BEFORE_OPERAND.has(before.text)) ||
    (before.kind === 'word' && KEYWORDS.has(before.text) && before.text !== 'end' && before.text !== 'null');
  if (!operandFollows) return '';
  masked.pop();
  return sign.text === '-' ? '-' : '';
}

/** `in ( ? , ? , … )` becomes `in ( ? )`, nested brackets of row lists `in ((?, ?), (?, ?))` too. */
function foldLists(tokens: Token[]): Token[] {
  const out: Token[] = [];
  for (let i = 0; i < tokens.length; i++) {
    out.push(tokens[i]);
    const opens = tokens[i].text === '(' && tokens[i - 1]?.text === 'in' && tokens[i - 1].kind === 'word';
    const array = tokens[i].text === '[' && tokens[i - 1]?.text === 'array';
    if (!opens && !array) continue;
    const close = closing(tokens, i);
    if (close < 0 || !onlyValues(tokens, i + 1, close)) continue;
    out.push({ kind: 'literal', text: '?' }, tokens[close]);
    i = close;
  }
  return out;
}

/** The rows after `values` become one when all have the same shape of values. */
function foldRows(tokens: Token[]): Token[] {
  const out: Token[] = [];
  for (let i = 0; i < tokens.length; i++) {
    out.push(tokens[i]);
    if (tokens[i].kind !== 'word' || !/^values?$/i.test(tokens[i].text) || tokens[i + 1]?.text !== '(')
      continue;
    const close = closing(tokens, i + 1);
    if (close < 0) continue;
    const first = shape(tokens, i + 1, close);
    for (let k = i + 1; k <= close; k++) out.push(tokens[k]);
    let at = close;
    while (tokens[at + 1]?.text === ',' && tokens[at + 2]?.text === '(') {
      const end = closing(tokens, at + 2);
      if (end < 0 || shape(tokens, at + 2, end) !== first) break;
      at = end;
    }
    i = at;
  }
  return out;
}

function shape(tokens: readonly Token[], from: number, to: number): string {
  return tokens
    .slice(from, to + 1)
    .map((token) => token.text)
    .join(' ');
}

function closing(tokens: readonly Token[], open: number): number {
  let depth = 0;
  for (let i = open; i < tokens.length; i++) {
    const { kind, text } = tokens[i];
    if (kind !== 'operator') continue;
    if (text === '(' || text === '[') depth++;
    else if ((text === ')' || text === ']') && --depth === 0) return i;
  }
  return -1;
}

function onlyValues(tokens: readonly Token[], from: number, to: number): boolean {
  if (from >= to) return false;
  for (let i = from; i < to; i++) {
    const { kind, text } = tokens[i];
    if (kind !== 'literal' && text !== ',' && text !== '(' && text !== ')') return false;
  }
  return true;
}

const NO_SPACE_BEFORE = new Set([',', ')', '.', ';', '::', ']', '[']);
const NO_SPACE_AFTER = new Set(['(', '.', '::', '[', '@']);

function write(tokens: readonly Token[]): string {
  let text = '';
  let last: Token | undefined;
  for (const token of tokens) {
    const call = token.text === '(' && last !== undefined && isFunctionName(last);
    const glued =
      last === undefined || NO_SPACE_BEFORE.has(token.text) || NO_SPACE_AFTER.has(last.text) || call;
    text += glued ? token.text : ` ${token.text}`;
    last = token;
  }
  return text;
}

function isFunctionName(token: Token): boolean {
  return token.kind === 'word' && !KEYWORDS.has(token.text.toLowerCase());
}
