import { createHmac, randomBytes } from 'node:crypto';

/**
 * Attribute that says whether two calls had the same parameters, without saying which: a hash under a key that this process draws at its
 * start and never sends.
 */
export const PARAMETERS_HASH = 'tromix.db.parameters.hash';

const key = randomBytes(32);

/** @returns 16 hexadecimal digits, equal for equal lists of parameters. */
export function hashOf(parameters: readonly unknown[]): string {
  const hash = createHmac('sha256', key);
  for (const value of parameters) hash.update(textOf(value)).update('\0');
  return hash.digest('hex').slice(0, 16);
}

/** A value with its kind: 1 and '1' are two. */
function textOf(value: unknown): string {
  if (Buffer.isBuffer(value)) return `bytes ${value.toString('base64')}`;
  if (value instanceof Date) return `date ${value.getTime()}`;
  if (typeof value !== 'object' || value === null) return `${typeof value} ${String(value)}`;
  try {
    return `object ${JSON.stringify(value)}`;
  } catch {
    // Nothing says that two of these are the same.
    return `object ${randomBytes(8).toString('hex')}`;
  }
}
