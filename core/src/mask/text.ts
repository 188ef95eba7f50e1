import { fingerprintSql } from '../calls/sql/fingerprint';
import { secrecyOf } from './names';
import { MASK, maskDoors, maskPeople } from './shapes';
import { maskUrls } from './url';

/** How much of a text is looked at. */
export type Thoroughness =
  /** Written by programs for people: messages, logs, statuses. Quoted parts and statements in it are values. */
  | 'message'
  /** The value of any attribute. */
  | 'value'
  /** A name that tells things apart: a service, a host, a release, a file. Random parts of it are ids. */
  | 'name';

/** Whatever none of the rules could change. One look that most texts need no more than. */
const SUSPECT =
  /[@=:'"`]|-----|[A-Za-z0-9+/_-]{20}|\d{3}-\d\d|(?:\d[ -]?){12}|[Bb](?:earer|asic)\s|[A-Z]{2}\d\d|_(?:live|test|prod)_|(?:AKIA|ASIA)\w/;
/** `name=`, `name: `, `"name": `, `--name `: what follows is the value. Quotes may be escaped, where the text is quoted in another. */
const NAMED =
  /(?<![\w.$])(?:\\{0,7}["'`])?([A-Za-z_][\w.$-]{1,80})(?:\\{0,7}["'`])?(\s{0,8}(?:=>|:=|==?|:)\s{0,8})|(?<=(?:^|\s)--?)([A-Za-z][\w.-]{1,80})(\s{1,4})/g;
/** A value ends where its kind of quote or bracket does, else at the next space or separator. */
const VALUE =
  /\\{1,7}["'][^"']*|"(?:[^"\\]|\\.)*(?:"|$)|'(?:[^'\\]|\\.)*(?:'|$)|`[^`]*(?:`|$)|\{[^{}]*(?:\}|$)|\[[^\][]*(?:\]|$)|[^\s"'`,;&|)}\]]+/sy;
/** What a database says of the row it refuses: `Key (email)=(…)`. */
const ROW_DETAIL = /(\([\w, "]+\)\s*=\s*)\([^)]*\)?/g;
/** `password hunter2`, `password is hunter2`, `password for bob: hunter2`. */
const SPOKEN =
  /\b(passwords?|passphrase|passwd|pwd|secret|api[ _-]?key|access[ _-]?token|auth[ _-]?token|token|pin)\b(\s+(?:is|was|of|for\s+\S+)?\s*:?\s*)([^\s"'`,;:.()[\]{}=?]{4,}[^\s"'`,;()[\]{}=]*)/gi;
/** A word that is made up rather than one of a language: with digits or signs in it, or a capital within. */
const MADE_UP = /\d|[!#$%^&*+~]|[a-z][A-Z]/;

/** SQL and its kin within a text, as far as the line goes. */
const STATEMENT =
  /\b(?:select\s[\s\S]*?\sfrom\s|insert\s+into\s|update\s+\S+\s+set\s|delete\s+from\s|merge\s+into\s|replace\s+into\s|call\s+\w+\s*\(|exec(?:ute)?\s+\w+|match\s*\(|where\s+\S+\s*(?:=|<|>|like|in)\s)[^\n]*/gi;
/** Parts in quotes; apostrophes within words are none. */
const QUOTED = /(?<![\p{L}\p{N}])(["'`])((?:(?!\1)[^\\\n]|\\.){1,300})\1(?![\p{L}\p{N}])/gu;
/** A quoted part that is a name of the program's own: a column, a property, a class. */
const IDENTIFIER = /^[A-Za-z_$@#][A-Za-z_$.:/<>-]*(?:\[\])?(?:\(\))?$/;
const MAX_IDENTIFIER = 60;

/** Texts repeat; bounded, since they come from outside. */
const memory: Record<Thoroughness, Map<string, string>> = {
  message: new Map(),
  value: new Map(),
  name: new Map()
};
const MAX_KNOWN = 20_000;
const MAX_KNOWN_LENGTH = 300;

/**
 * Masks what a text gives away: user information and values of URLs, values under names that say so, credentials, keys and tokens by their
 * shape, addresses and numbers of people; of messages also quoted parts that are no names, and literals of statements in them.
 * What it cannot know stands in docs/security.md.
 */
export function maskText(text: string, thoroughness: Thoroughness): string {
  if (isPlain(text, thoroughness === 'message')) return text;
  const known = memory[thoroughness].get(text);
  if (known !== undefined) return known;
  const masked = work(text, thoroughness);
  if (text.length <= MAX_KNOWN_LENGTH) {
    if (memory[thoroughness].size >= MAX_KNOWN) memory[thoroughness].clear();
    memory[thoroughness].set(text, masked);
  }
  return masked;
}

/** Texts that no rule could change. A look at what was seen before is several times faster than one at the text. */
const plain = { message: new Set<string>(), other: new Set<string>() };
const MAX_PLAIN_LENGTH = 100;

function isPlain(text: string, message: boolean): boolean {
  const seen = message ? plain.message : plain.other;
  if (seen.has(text)) return true;
  if (SUSPECT.test(text) || (message && SPOKEN_WORD.test(text))) return false;
  if (text.length <= MAX_PLAIN_LENGTH) {
    if (seen.size >= MAX_KNOWN) seen.clear();
    seen.add(text);
  }
  return true;
}

const SPOKEN_WORD = /pass|pwd|secret|key|token|pin|where|select|insert|update|delete/i;

function work(text: string, thoroughness: Thoroughness): string {
  let masked = maskDoors(maskUrls(text));
  masked = maskNamed(masked);
  if (thoroughness === 'name') return masked;
  masked = maskPeople(masked);
  if (thoroughness !== 'message') return masked;
  masked = masked
    .replace(STATEMENT, (statement) => maskedStatement(statement))
    .replace(ROW_DETAIL, `$1(${MASK})`)
    .replace(SPOKEN, (whole, word: string, between: string, value: string) =>
      MADE_UP.test(value) ? `${word}${between}${MASK}` : whole
    );
  return masked.replace(QUOTED, (whole, quote: string, inner: string) =>
    inner === MASK || (inner.length <= MAX_IDENTIFIER && IDENTIFIER.test(inner))
      ? whole
      : `${quote}${MASK}${quote}`
  );
}

/** Values under names that are secret go. The value of another name is looked through in its turn: it may hold pairs of its own. */
function maskNamed(text: string): string {
  if (!/[=:]|--/.test(text)) return text;
  let masked = '';
  let at = 0;
  NAMED.lastIndex = 0;
  for (let found = NAMED.exec(text); found; found = NAMED.exec(text)) {
    const name = found[1] ?? found[3];
    const secrecy = secrecyOf(name);
    if (secrecy === 'no') continue;
    VALUE.lastIndex = NAMED.lastIndex;
    const value = VALUE.exec(text)?.[0] ?? '';
    const counted = secrecy === 'texts' && /^-?\d+(?:\.\d+)?$/.test(value);
    if (value === '' || value === MASK || value.startsWith('//') || counted) continue;
    masked += text.slice(at, NAMED.lastIndex) + MASK;
    at = NAMED.lastIndex += value.length;
  }
  return masked + text.slice(at);
}

/** A statement without its literals; as it is where it has none. */
function maskedStatement(statement: string): string {
  const { text, literals } = fingerprintSql(statement, 'generic');
  return literals.length > 0 ? text : statement;
}

/** A span's name: a statement in it loses its literals, the rest is masked as a message is. */
export function maskName(name: string): string {
  if (STARTS_STATEMENT.test(name)) {
    const { text, literals } = fingerprintSql(name, 'generic');
    if (literals.length > 0) return text;
  }
  return maskText(name, 'message');
}
const STARTS_STATEMENT =
  /^\s*(?:select|insert|update|delete|merge|replace|with|call|exec(?:ute)?|match|create|alter|upsert|set|grant)\s+\S+/i;

/** Lines of a stack: they name places of the program. */
const FRAME_LINE =
  /^\s*(?:at\s|File ".*", line \d+|\.\.\. \d+ more|from\s\S+:\d+|#\d+\s|[\w./$<>-]+\(\.{0,3}\)?|goroutine \d+)/;

/** A recorded stack: messages in it are masked as such, of its frames only what opens doors. */
export function maskStack(stack: string): string {
  // What follows the message repeats as a whole: the same place throws again and again.
  const frames = stack.search(/\n\s+at /);
  if (frames < 0) return maskLines(stack);
  const tail = stack.slice(frames);
  let masked = tails.get(tail);
  if (masked === undefined) {
    masked = maskLines(tail);
    if (tails.size >= MAX_TAILS) tails.clear();
    if (tail.length <= MAX_TAIL_LENGTH) tails.set(tail, masked);
  }
  return maskLines(stack.slice(0, frames)) + masked;
}

/** Bounded: some megabytes at most. */
const tails = new Map<string, string>();
const MAX_TAILS = 1000;
const MAX_TAIL_LENGTH = 8000;

const maskLines = (text: string): string =>
  text
    .split('\n')
    .map((line) => maskText(line, FRAME_LINE.test(line) ? 'name' : 'message'))
    .join('\n');
