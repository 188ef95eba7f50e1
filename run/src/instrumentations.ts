import type { Instrumentation } from '@opentelemetry/instrumentation';
import { ExpressInstrumentation } from '@opentelemetry/instrumentation-express';
import { HapiInstrumentation } from '@opentelemetry/instrumentation-hapi';
import { HttpInstrumentation } from '@opentelemetry/instrumentation-http';
import { IORedisInstrumentation } from '@opentelemetry/instrumentation-ioredis';
import { KoaInstrumentation } from '@opentelemetry/instrumentation-koa';
import { MongoDBInstrumentation } from '@opentelemetry/instrumentation-mongodb';
import { MySQLInstrumentation } from '@opentelemetry/instrumentation-mysql';
import { MySQL2Instrumentation } from '@opentelemetry/instrumentation-mysql2';
import { PgInstrumentation } from '@opentelemetry/instrumentation-pg';
import { RedisInstrumentation } from '@opentelemetry/instrumentation-redis';
import { UndiciInstrumentation } from '@opentelemetry/instrumentation-undici';
import { hashOf, PARAMETERS_HASH } from './parameters-hash';

/** Rows a call returned, by the name of the semantic conventions for databases. */
const ROWS = 'db.response.returned_rows';

/** What is instrumented: HTTP, the common frameworks, and clients of SQL and key-value databases. */
export const instrumentations = (): Instrumentation[] => [
  new HttpInstrumentation(),
  new UndiciInstrumentation(),
  new ExpressInstrumentation(),
  new KoaInstrumentation(),
  new HapiInstrumentation(),
  new PgInstrumentation({
    requestHook: (span, { query: { values } }) => {
      if (values && values.length > 0) span.setAttribute(PARAMETERS_HASH, hashOf(values));
    },
    responseHook: (span, { data }) => {
      if (Array.isArray(data.rows)) span.setAttribute(ROWS, data.rows.length);
    }
  }),
  new MySQLInstrumentation(),
  new MySQL2Instrumentation({
    responseHook: (span, { queryResults }) => {
      if (Array.isArray(queryResults)) span.setAttribute(ROWS, queryResults.length);
    }
  }),
  new MongoDBInstrumentation(),
  new RedisInstrumentation(),
  new IORedisInstrumentation()
];
