import type { Attributes } from '@opentelemetry/api';
import type { ReadableSpan, SpanProcessor } from '@opentelemetry/sdk-trace-base';
import { hashOf, PARAMETERS_HASH } from './parameters-hash';

/** Names of the text of a call, current and older (semantic conventions for database calls). */
const TEXTS = ['db.query.text', 'db.statement'];
/** What clients that fill parameters in themselves record of them. */
const VALUES = 'db.mysql.values';
/** Clients whose text has the parameters in it, by the name of what instruments them. */
const FILLED_IN = /instrumentation-(?:mysql2|mongodb)$/;
const LITERALS =
  /'(?:[^'\\]|\\.|'')*'|"(?:[^"\\]|\\.|"")*"|\b0x[0-9a-f]+\b|(?<![\w$])-?\d+(?:\.\d+)?(?:e[+-]?\d+)?\b/gi;

/**
 * Takes the parameters out of calls whose client records them, and puts a hash in their place that is equal for equal parameters: nothing leaves the
 * program that was not asked for.
 */
export class ParametersHashed implements SpanProcessor {
  onStart(): void {}

  onEnd({ attributes, instrumentationScope }: ReadableSpan): void {
    // The span is ours until it is exported: this processor stands before the one that does.
    const own = attributes as Attributes;
    const text = TEXTS.find((name) => typeof own[name] === 'string');
    if (typeof own[VALUES] === 'string') {
      own[PARAMETERS_HASH] = hashOf([own[VALUES]]);
      delete own[VALUES];
    } else if (text !== undefined && FILLED_IN.test(instrumentationScope.name)) {
      const filled = own[text] as string;
      own[PARAMETERS_HASH] = hashOf([filled]);
      own[text] = withoutValues(filled);
    }
  }

  forceFlush = async (): Promise<void> => {};
  shutdown = async (): Promise<void> => {};
}

/** A statement with its literals as `?`; a document with its values so. */
export function withoutValues(text: string): string {
  if (!/^\s*[[{]/.test(text)) return text.replace(LITERALS, '?');
  try {
    return JSON.stringify(JSON.parse(text), (key, value: unknown) =>
      typeof value === 'object' && value !== null ? value : NAMING.has(key) ? value : '?'
    );
  } catch {
    return '?';
  }
}

/** Members of a command whose value names what is asked, not of whom. */
const NAMING = new Set([
  'find',
  'aggregate',
  'insert',
  'update',
  'delete',
  'count',
  'distinct',
  'findAndModify',
  '$db'
]);
