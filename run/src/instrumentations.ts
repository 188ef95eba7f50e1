import type { Span } from '@opentelemetry/api';
import type { Instrumentation } from '@opentelemetry/instrumentation';
import { ExpressInstrumentation } from '@opentelemetry/instrumentation-express';
import { HapiInstrumentation } from '@opentelemetry/instrumentation-hapi';
import { HttpInstrumentation } from '@opentelemetry/instrumentation-http';
import { IORedisInstrumentation } from '@opentelemetry/instrumentation-ioredis';
import { KoaInstrumentation } from '@opentelemetry/instrumentation-koa';
import { MongoDBInstrumentation } from '@opentelemetry/instrumentation-mongodb';
import { MySQLInstrumentation } from '@opentelemetry/instrumentation-mysql';
import { MySQL2Instrumentation } from '@opentelemetry/instrumentation-mysql2';
import { NestInstrumentation } from '@opentelemetry/instrumentation-nestjs-core';
import { PgInstrumentation } from '@opentelemetry/instrumentation-pg';
import { RedisInstrumentation } from '@opentelemetry/instrumentation-redis';
import { UndiciInstrumentation } from '@opentelemetry/instrumentation-undici';
import { noteFirstByte, notePhases } from './phases';
import { noteServerTiming } from './server-timing';
import { hashOf, PARAMETERS_HASH } from './parameters-hash';

/** Rows a call returned, by the name of the semantic conventions for databases. */
const ROWS = 'db.response.returned_rows';

/** Set by who wants the parameters of statements recorded. */
export const WITH_PARAMETERS = process.env.TROMIX_RUN_PARAMETERS === '1';

/** The parameters of a statement: by their hash, or where somebody asked for it as they are. */
function noteParameters(span: Span, values: readonly unknown[]): void {
  span.setAttribute(PARAMETERS_HASH, hashOf(values));
  if (WITH_PARAMETERS)
    for (const [i, value] of values.entries())
      span.setAttribute(
        `db.query.parameter.${i}`,
        typeof value === 'string' ? value : (JSON.stringify(value) ?? '')
      );
}

/** What is instrumented: HTTP, the common frameworks, and clients of SQL and key-value databases. */
export const instrumentations = (): Instrumentation[] => [
  new HttpInstrumentation({
    requestHook: notePhases,
    // It changes what the program answers: only where that is wished.
    ...(process.env.TROMIX_RUN_SERVER_TIMING === '1' && { responseHook: noteServerTiming })
  }),
  new UndiciInstrumentation({ responseHook: noteFirstByte }),
  new ExpressInstrumentation(),
  new KoaInstrumentation(),
  new HapiInstrumentation(),
  new NestInstrumentation(),
  new PgInstrumentation({
    requestHook: (span, { query: { values } }) => {
      if (values && values.length > 0) noteParameters(span, values);
    },
    responseHook: (span, { data }) => {
      if (Array.isArray(data.rows)) span.setAttribute(ROWS, data.rows.length);
    }
  }),
  // Values and filled-in statements are taken out again: see `ParametersHashed`.
  new MySQLInstrumentation({ enhancedDatabaseReporting: true }),
  new MySQL2Instrumentation({
    responseHook: (span, { queryResults }) => {
      if (Array.isArray(queryResults)) span.setAttribute(ROWS, queryResults.length);
    }
  }),
  new MongoDBInstrumentation({
    enhancedDatabaseReporting: true,
    responseHook: (span, { data }) => {
      const batch = (data.result as { cursor?: { firstBatch?: unknown } } | undefined)?.cursor?.firstBatch;
      if (Array.isArray(batch)) span.setAttribute(ROWS, batch.length);
    }
  }),
  new RedisInstrumentation(),
  new IORedisInstrumentation()
];
