/**
 * Words that name a secret wherever they stand in a name (common practice). A value under such a name is dropped, whatever it is.
 */
const SECRET_WORDS = new Set([
  'password',
  'passwords',
  'passwd',
  'pwd',
  'passphrase',
  'passcode',
  'secret',
  'secrets',
  'credential',
  'credentials',
  'authorization',
  'cookie',
  'cookies',
  'jwt',
  'otp',
  'totp',
  'pin',
  'cvv',
  'cvc',
  'ssn',
  'iban',
  'csrf',
  'xsrf',
  'apikey',
  'apikeys',
  'jsessionid',
  'phpsessid',
  'sessionid',
  'sid',
  'dsn',
  'bearer'
]);
/** Words that name a secret only together, in this order, nothing between. */
const SECRET_PAIRS = new Set([
  'api key',
  'access key',
  'private key',
  'secret key',
  'signing key',
  'encryption key',
  'account key',
  'shared key',
  'master key',
  'auth key',
  'session id',
  'session key',
  'connection string',
  'connect string',
  'card number',
  'account number',
  'basic auth',
  'proxy auth',
  'client assertion',
  'environment variable',
  'one time'
]);
/** These name a secret where the value is a text: numbers of tokens are counted, not kept secret. */
const SECRET_TEXTS = new Set(['token', 'tokens', 'auth', 'signature', 'nonce', 'salt']);
/** Joined without a border: `accesstoken`, `dbpassword`. */
const JOINED =
  /^passw(?:or)?d|(?:password|passwd|passphrase|secret|apikey|accesskey|privatekey|credential|(?:access|auth|bearer|refresh|session|id|csrf|xsrf)token)s?$/;

/** Names of the OpenTelemetry semantic conventions that would match, and hold no secret. */
const PLAIN = new Set(['gen_ai.token.type', 'auth.method', 'tls.client.subject']);

/** The words of a name, in lower case: parted by anything that is no letter or digit, and where a capital begins. */
const wordsOf = (name: string): string[] =>
  name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);

/** How a name speaks of its value: always a secret, one where it is a text, or not at all. */
export type Secrecy = 'always' | 'texts' | 'no';

/** Bounded, since names come from outside. */
const known = new Map<string, Secrecy>();
const MAX_KNOWN = 5000;

/** Says whether a name (of an attribute, a header, a parameter, a JSON member) says that its value is secret. */
export function secrecyOf(name: string): Secrecy {
  let secrecy = known.get(name);
  if (!secrecy) {
    secrecy = judge(name);
    if (known.size >= MAX_KNOWN) known.clear();
    known.set(name, secrecy);
  }
  return secrecy;
}

function judge(name: string): Secrecy {
  if (PLAIN.has(name.toLowerCase())) return 'no';
  const words = wordsOf(name);
  if (words.some((word) => SECRET_WORDS.has(word) || JOINED.test(word))) return 'always';
  for (let i = 1; i < words.length; i++) if (SECRET_PAIRS.has(`${words[i - 1]} ${words[i]}`)) return 'always';
  return words.some((word) => SECRET_TEXTS.has(word)) ? 'texts' : 'no';
}

/** True where a text under this name is secret. */
export const isSecretName = (name: string): boolean => secrecyOf(name) !== 'no';
