import { MASK } from './shapes';

/** Members whose value says what is asked, not of whom: the names of collections and the like. */
const NAMING =
  /^(?:find|findOne|findAndModify|aggregate|insert|insertOne|insertMany|update|updateOne|updateMany|delete|deleteOne|deleteMany|count|distinct|getMore|createIndexes|drop|collection|from|index|\$db|type|__typename|operationName|method|jsonrpc|TableName)$/;
const MAX_DEPTH = 40;
const MAX_LENGTH = 4000;

/**
 * A JSON text by its keys: values become `?`, like items of a list are one. A text that breaks off is masked by its tokens.
 * @returns null for a text that is no JSON object or list.
 */
export function maskJson(text: string): string | null {
  const trimmed = text.trim();
  if (!/^[[{]/.test(trimmed)) return null;
  let value: unknown;
  try {
    value = JSON.parse(trimmed);
  } catch {
    return maskJsonTokens(trimmed);
  }
  const masked = JSON.stringify(keysOf(value, '', MAX_DEPTH)).replaceAll('"?"', MASK);
  return masked.length > MAX_LENGTH ? `${masked.slice(0, MAX_LENGTH)}…` : masked;
}

function keysOf(value: unknown, name: string, depth: number): unknown {
  if (depth === 0) return MASK;
  if (Array.isArray(value)) {
    const items = new Map<string, unknown>();
    for (const item of value) {
      const masked = keysOf(item, '', depth - 1);
      items.set(JSON.stringify(masked), masked);
    }
    return [...items.values()];
  }
  if (typeof value === 'object' && value !== null)
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => [maskKey(key), keysOf(inner, key, depth - 1)])
    );
  return typeof value === 'string' && NAMING.test(name) && /^[\w.$ -]{1,100}$/.test(value) ? value : MASK;
}

/** A map keyed by values has keys that are values: what is no name is masked. */
const maskKey = (key: string): string => (/^[\w.$ :/-]{1,80}$/.test(key) && !/\d{6,}/.test(key) ? key : MASK);

/** Strings that are no keys, and numbers, become `?`; works on a text that breaks off, and on the shells of document stores. */
export function maskJsonTokens(text: string): string {
  return text
    .replace(/"(?:[^"\\]|\\.)*(?:"|$)(\s*:)?/gs, (found, colon: string | undefined) => (colon ? found : MASK))
    .replace(/'(?:[^'\\]|\\.)*(?:'|$)(\s*:)?/gs, (found, colon: string | undefined) => (colon ? found : MASK))
    .replace(/(?<![\w$])-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?(?!\w)/g, MASK)
    .slice(0, MAX_LENGTH);
}
