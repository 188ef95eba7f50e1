/** What stands in place of something that was masked. */
export const MASK = '?';

/** Lengths as RFC 5321 allows them (4.5.3.1). */
const EMAIL =
  /(?<![\p{L}\p{N}._%+-])[\p{L}\p{N}._%+-]{1,64}@[\p{L}\p{N}-]{1,63}(?:\.[\p{L}\p{N}-]{1,63}){1,8}/gu;
/** JSON Web Tokens (RFC 7519): three parts in base64url, the first of which begins with `{"`. */
const JWT = /(?<![\w-])eyJ[\w-]{6,}\.[\w-]+(?:\.[\w-]*)?/g;
/** HTTP credentials (RFC 9110, 11.4) wherever they are quoted. */
const CREDENTIALS = /\b(bearer|basic|digest|negotiate|apikey)\s+([\w.~+/=-]{6,})/gi;
/** PEM blocks (RFC 7468). */
const PEM = /-----BEGIN [A-Z ]+-----[\s\S]*?(?:-----END [A-Z ]+-----|$)/g;
/** Social security numbers as they are written. */
const WRITTEN_NUMBER = /\b\d{3}-\d{2}-\d{4}\b/g;
/**
 * Card numbers: 13 to 19 digits (ISO/IEC 7812-1) that begin as those of payment cards do, with 3 to 6 or 2221 to 2720 (ISO/IEC 7812's
 * industry identifiers; the range of 2 from memory). So a time since 1970 in milliseconds or finer, which begins with 1, is none: the check
 * digit alone takes every tenth of them for a card.
 */
const CARD = /\b(?=[2-6])\d(?:[ -]?\d){12,18}\b/g;
const IBAN = /\b[A-Z]{2}\d{2}(?: ?[A-Z0-9]{4}){3,7}(?: ?[A-Z0-9]{1,3})?\b/g;
/** Keys that say so themselves: a short prefix, what it is for, and something random (common practice). */
const PREFIXED =
  /\b(?:[a-z]{2,6}_(?:live|test|prod|sec|pat)_\w{8,}|(?:AKIA|ASIA)[0-9A-Z]{16}|xox[a-z]-[\w-]{10,}|gh[a-z]_\w{20,})/g;
/** Runs of characters that tokens are written with. */
const RUN = /[A-Za-z0-9+/_-]{20,}={0,2}/g;
const UUID = /^[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}$/i;
const HEX = /^[0-9a-f]+$/i;

/** Hexadecimal runs from this length on may be keys; shorter ones are ids. */
const KEY_HEX = 32;
/** Bits a character of a random text holds at least, as far as its own characters tell. */
const RANDOM_BITS = 3.5;

/** Tells a card number by where it begins and by its check digit (Luhn, ISO/IEC 7812-1 annex B). */
function isCardNumber(text: string): boolean {
  const digits = text.replace(/\D/g, '');
  const begins = Number(digits.slice(0, 4));
  if (digits.startsWith('2') && (begins < 2221 || begins > 2720)) return false;
  let sum = 0;
  for (let i = 0; i < digits.length; i++) {
    const digit = Number(digits[digits.length - 1 - i]);
    const doubled = i % 2 === 1 ? digit * 2 : digit;
    sum += doubled > 9 ? doubled - 9 : doubled;
  }
  return sum % 10 === 0;
}

/** Bits a character, by how often each character of the text stands in it (Shannon 1948). */
function bitsPerCharacter(text: string): number {
  const counts = new Map<string, number>();
  for (const character of text) counts.set(character, (counts.get(character) ?? 0) + 1);
  let bits = 0;
  for (const count of counts.values()) bits -= (count / text.length) * Math.log2(count / text.length);
  return bits;
}

/**
 * True for a run of characters that looks like a key or a token: not an id that is written as a UUID, not words. Long hexadecimal numbers;
 * and letters of both cases with digits among them, as random as such texts are.
 */
export function looksRandom(run: string): boolean {
  if (run.length < 20 || UUID.test(run)) return false;
  const bare = run.replace(/=+$/, '');
  if (HEX.test(bare)) return bare.length >= KEY_HEX && /\d/.test(bare) && /[a-f]/i.test(bare);
  const digits = bare.replace(/\D/g, '').length;
  const mixed = /[a-z]/.test(bare) && /[A-Z]/.test(bare) && digits >= 2;
  const lower =
    bare.length >= 32 && digits >= 4 && !bare.includes('/') && (bare.match(/[-_]/g)?.length ?? 0) <= 2;
  return (mixed || lower) && bitsPerCharacter(bare) >= RANDOM_BITS;
}

/** True for a whole word, a segment of a path say, that names a person or opens a door. */
export function isSecretWord(word: string): boolean {
  if (word.length < 6) return false;
  return (
    (word.includes('@') && new RegExp(`^${EMAIL.source}$`, 'u').test(word)) ||
    JWT_WORD.test(word) ||
    PREFIXED_WORD.test(word) ||
    looksRandom(word)
  );
}
const JWT_WORD = new RegExp(`^${JWT.source}$`);
const PREFIXED_WORD = new RegExp(`^${PREFIXED.source}$`);

/** Masks what tells by its shape that it opens a door, whatever stands around it. */
export function maskDoors(text: string): string {
  return text
    .replace(PEM, MASK)
    .replace(JWT, MASK)
    .replace(CREDENTIALS, (whole, scheme: string, value: string) =>
      /[\dA-Z+/=]/.test(value) ? `${scheme} ${MASK}` : whole
    )
    .replace(PREFIXED, MASK);
}

/** Masks addresses and numbers of people, and what looks random. */
export function maskPeople(text: string): string {
  return text
    .replace(EMAIL, MASK)
    .replace(WRITTEN_NUMBER, MASK)
    .replace(IBAN, (found) => (found.replace(/ /g, '').length >= 15 ? MASK : found))
    .replace(CARD, (found) => (isCardNumber(found) ? MASK : found))
    .replace(RUN, (run) => (looksRandom(run) ? MASK : run));
}

/** True for a text that is nothing but an e-mail address. */
export const isEmail = (text: string): boolean => {
  EMAIL.lastIndex = 0;
  const found = EMAIL.exec(text);
  return found !== null && found.index === 0 && found[0].length === text.length;
};
