/**
 * A small service as people write them: Express, GraphQL, PostgreSQL by its driver and by an ORM, MariaDB, Redis, RabbitMQ, calls to itself.
 * It knows nothing of tracing but for one route that opens spans of its own; the official auto-instrumentation watches it.
 */
const { setTimeout: pause } = require('node:timers/promises');
const { trace } = require('@opentelemetry/api');
const amqp = require('amqplib');
const DataLoader = require('dataloader');
const express = require('express');
const graphql = require('graphql');
const Redis = require('ioredis');
const knex = require('knex');
const mysql = require('mysql2/promise');
const { Pool } = require('pg');
const { DataTypes, Sequelize } = require('sequelize');

const PORT = Number(process.env.PORT);
const HERE = `http://localhost:${PORT}`;
const LOGIN = { host: '127.0.0.1', user: 'quay', password: 'quay', database: 'quay' };
const pool = new Pool({ ...LOGIN, max: Number(process.env.POOL ?? 10) });
const sea = new Sequelize('quay', 'quay', 'quay', { host: '127.0.0.1', dialect: 'postgres', logging: false });
const builder = knex({ client: 'pg', connection: LOGIN, pool: { min: 0, max: 5 } });
const maria = mysql.createPool({ ...LOGIN, connectionLimit: 5 });
const redis = new Redis({ host: '127.0.0.1', lazyConnect: true });
const tracer = trace.getTracer('harbour');
const app = express();
app.use((request, response, next) => next());
app.use(express.json());
app.use((request, response, next) => next());

const rows = async (sql, values) => (await pool.query(sql, values)).rows;
const vessels = (count) => rows('SELECT id, name FROM vessel ORDER BY id LIMIT $1', [count]);
const callsOf = (id) => rows('SELECT due FROM port_call WHERE vessel = $1', [id]);
const slowCallsOf = (id) => rows('SELECT due, pg_sleep(0.03) FROM port_call WHERE vessel = $1', [id]);

/** One after another. */
app.get('/each', async (request, response) => {
  const list = await vessels(40);
  for (const vessel of list) vessel.calls = await callsOf(vessel.id);
  response.json(list);
});
/** All at once, as far as the pool goes. */
app.get('/all', async (request, response) => {
  const list = await vessels(40);
  await Promise.all(list.map(async (vessel) => (vessel.calls = await callsOf(vessel.id))));
  response.json(list);
});
/** Two at a time. */
app.get('/pairs', async (request, response) => {
  const list = await vessels(40);
  for (let i = 0; i < list.length; i += 2)
    await Promise.all(list.slice(i, i + 2).map(async (vessel) => (vessel.calls = await callsOf(vessel.id))));
  response.json(list);
});
/** Two different queries for each row, in turns. */
app.get('/turns', async (request, response) => {
  const list = await vessels(30);
  for (const vessel of list) {
    vessel.calls = await callsOf(vessel.id);
    vessel.cargo = await rows('SELECT tonnes FROM cargo WHERE vessel = $1 AND tonnes > 0', [vessel.id]);
  }
  response.json(list);
});
/** A loop in a loop. */
app.get('/nested', async (request, response) => {
  const quays = await rows('SELECT id, name FROM quay ORDER BY id LIMIT 6');
  for (const quay of quays) {
    quay.berths = await rows('SELECT id FROM berth WHERE quay = $1', [quay.id]);
    for (const berth of quay.berths)
      berth.bookings = await rows('SELECT id FROM booking WHERE berth = $1', [berth.id]);
  }
  response.json(quays);
});
/** Each row under a span of its own. */
app.get('/spans', async (request, response) => {
  const list = await vessels(25);
  for (const vessel of list)
    await tracer.startActiveSpan('describe vessel', async (span) => {
      vessel.calls = await callsOf(vessel.id);
      span.end();
    });
  response.json(list);
});
/** A handler whose own span ends at once, while the work goes on. */
app.get('/handed-over', (request, response) => {
  tracer.startActiveSpan('hand over', (span) => {
    Promise.all([1, 2, 3, 4, 5, 6].map((id) => slowCallsOf(id))).then((list) => response.json(list));
    span.end();
  });
});
/** Answers, and works on. */
app.get('/after', (request, response) => {
  response.json({ accepted: true });
  void (async () => {
    for (let i = 1; i <= 6; i++) await slowCallsOf(i);
  })();
});
/** Few statements for many rows: nothing to find here. */
app.get('/batches', async (request, response) => {
  const list = await vessels(60);
  const found = [];
  for (let i = 0; i < 60; i += 10)
    found.push(
      ...(await rows('SELECT vessel, due FROM port_call WHERE vessel = ANY($1)', [
        list.slice(i, i + 10).map(({ id }) => id)
      ]))
    );
  response.json(found);
});
app.get('/in-lists', async (request, response) => {
  const found = [];
  for (let i = 0; i < 60; i += 10) {
    const ids = Array.from({ length: 10 }, (_, k) => i + k + 1);
    const marks = ids.map((_, k) => `$${k + 1}`).join(', ');
    found.push(...(await rows(`SELECT vessel, due FROM port_call WHERE vessel IN (${marks})`, ids)));
  }
  response.json(found);
});
app.get('/pages', async (request, response) => {
  const found = [];
  for (let at = 0; at < 120; at += 20)
    found.push(...(await rows('SELECT id, due FROM port_call ORDER BY id LIMIT $1 OFFSET $2', [20, at])));
  response.json(found);
});
app.get('/key-pages', async (request, response) => {
  let last = 0;
  const found = [];
  for (let page = 0; page < 6; page++) {
    const part = await rows('SELECT id, due FROM port_call WHERE id > $1 ORDER BY id LIMIT 20', [last]);
    found.push(...part);
    last = part.at(-1)?.id ?? last;
  }
  response.json(found);
});
/** The ORM: one query for each row, and one for all. */
app.get('/orm', async (request, response) => {
  const list = await Vessel.findAll({ limit: 45, order: ['id'] });
  const told = [];
  for (const vessel of list) told.push({ name: vessel.name, calls: await vessel.getCalls() });
  response.json(told);
});
app.get('/orm-joined', async (request, response) => {
  response.json(await Vessel.findAll({ limit: 45, order: ['id'], include: 'calls' }));
});
/** A query builder, whose spans stand around those of the driver. */
app.get('/builder', async (request, response) => {
  const list = await builder('vessel').select('id', 'name').orderBy('id').limit(45);
  for (const vessel of list)
    vessel.calls = await builder('port_call').select('due').where({ vessel: vessel.id });
  response.json(list);
});
/** Waits behind another transaction. */
app.post('/claim', async (request, response) => {
  const client = await pool.connect();
  await client.query('BEGIN');
  await client.query('SELECT id FROM berth WHERE id = $1 FOR UPDATE', [1]);
  await client.query('UPDATE berth SET claimed = now() WHERE id = $1', [1]);
  await pause(150);
  await client.query('COMMIT');
  client.release();
  response.json({ claimed: true });
});
app.get('/busy', async (request, response) => {
  response.json(await rows('SELECT count(*), pg_sleep(0.06) FROM port_call'));
});
/** The same thing again and again. */
app.get('/settings', async (request, response) => {
  for (let i = 0; i < 6; i++) await rows('SELECT value FROM setting WHERE name = $1', ['tide table']);
  response.json({});
});
/** Not the same thing: it changes each time. */
app.get('/numbers', async (request, response) => {
  const numbers = [];
  for (let i = 0; i < 6; i++) numbers.push(await rows("SELECT nextval('booking_number')"));
  response.json(numbers);
});
app.get('/signs', async (request, response) => {
  const found = [];
  for (let i = 1; i <= 4; i++)
    for (const level of [-i, i]) found.push(await rows(`SELECT id FROM tide WHERE level > ${level} LIMIT 1`));
  response.json(found);
});
/** MariaDB: row by row, in one transaction; a number after each. */
app.post('/cargo', async (request, response) => {
  const connection = await maria.getConnection();
  await connection.beginTransaction();
  for (let i = 0; i < 30; i++) {
    await connection.query('INSERT INTO cargo (vessel, tonnes) VALUES (?, ?)', [i, i * 3]);
    await connection.query('SELECT LAST_INSERT_ID()');
  }
  await connection.commit();
  connection.release();
  response.json({});
});
app.get('/tides', async (request, response) => {
  for (let i = 0; i < 60; i++) await redis.get(`tide:${i}`);
  response.json({});
});
app.post('/notices', async (request, response) => {
  const connection = await amqp.connect('amqp://localhost');
  const channel = await connection.createChannel();
  await channel.assertQueue('notices');
  for (let i = 0; i < 40; i++) channel.sendToQueue('notices', Buffer.from(`notice ${i}`));
  await channel.close();
  await connection.close();
  response.json({});
});
/** Calls to another side. */
app.get('/pilots/:id', (request, response) => response.json({ id: request.params.id }));
app.get('/roster', async (request, response) => {
  const list = [];
  for (let i = 0; i < 25; i++) list.push(await (await fetch(`${HERE}/pilots/${i}`)).json());
  response.json(list);
});
app.get('/timeout', async (request, response) => {
  const late = await fetch(`${HERE}/never`, { signal: AbortSignal.timeout(1000) }).catch(() => null);
  response.json({ late: late === null });
});
app.get('/never', async (request, response) => {
  await pause(1400);
  response.json({});
});
app.get('/patient', async (request, response) => response.json(await (await fetch(`${HERE}/second`)).json()));
app.get('/second', async (request, response) => {
  await pause(1003);
  response.json({});
});
app.get('/stream', async (request, response) => {
  for (let i = 1; i <= 5; i++) response.write(JSON.stringify(await slowCallsOf(i)));
  response.end();
});

const field = (type, resolve) => ({ type, resolve });
const list = (type) => new graphql.GraphQLList(type);
const Call = new graphql.GraphQLObjectType({ name: 'Call', fields: { due: field(graphql.GraphQLString) } });
const loaderOf = () =>
  new DataLoader(async (ids) => {
    const found = await rows('SELECT vessel, due FROM port_call WHERE vessel = ANY($1)', [ids]);
    return ids.map((id) => found.filter(({ vessel }) => vessel === id));
  });
const VesselType = new graphql.GraphQLObjectType({
  name: 'Vessel',
  fields: {
    name: field(graphql.GraphQLString),
    calls: field(list(Call), ({ id }) => callsOf(id)),
    slowCalls: field(list(Call), ({ id }) => slowCallsOf(id)),
    loadedCalls: field(list(Call), ({ id }, _, { loader }) => loader.load(id))
  }
});
const schema = new graphql.GraphQLSchema({
  query: new graphql.GraphQLObjectType({
    name: 'Query',
    fields: {
      vessels: {
        type: list(VesselType),
        args: { count: { type: graphql.GraphQLInt } },
        resolve: (_, { count }) => vessels(count)
      }
    }
  })
});
app.post('/graphql', async (request, response) => {
  const contextValue = { loader: loaderOf() };
  response.json(await graphql.graphql({ schema, source: request.body.query, contextValue }));
});

const Vessel = sea.define('vessel', { name: DataTypes.STRING }, { tableName: 'vessel', timestamps: false });
const PortCall = sea.define(
  'port_call',
  { due: DataTypes.DATE },
  { tableName: 'port_call', timestamps: false }
);
Vessel.hasMany(PortCall, { as: 'calls', foreignKey: 'vessel' });

const SCHEMA = `
  DROP TABLE IF EXISTS vessel, port_call, cargo, quay, berth, booking, setting, tide; DROP SEQUENCE IF EXISTS booking_number;
  CREATE TABLE vessel (id serial PRIMARY KEY, name text); CREATE TABLE port_call (id serial PRIMARY KEY, vessel int, due timestamptz);
  CREATE TABLE cargo (id serial PRIMARY KEY, vessel int, tonnes int); CREATE TABLE quay (id serial PRIMARY KEY, name text);
  CREATE TABLE berth (id serial PRIMARY KEY, quay int, claimed timestamptz); CREATE TABLE booking (id serial PRIMARY KEY, berth int);
  CREATE TABLE setting (name text PRIMARY KEY, value text); CREATE TABLE tide (id serial PRIMARY KEY, level int);
  CREATE SEQUENCE booking_number;
  INSERT INTO vessel (name) SELECT 'vessel ' || i FROM generate_series(1, 100) i;
  INSERT INTO port_call (vessel, due) SELECT 1 + i % 100, now() FROM generate_series(1, 400) i;
  INSERT INTO cargo (vessel, tonnes) SELECT 1 + i % 100, i FROM generate_series(1, 200) i;
  INSERT INTO quay (name) SELECT 'quay ' || i FROM generate_series(1, 6) i;
  INSERT INTO berth (quay) SELECT 1 + i % 6 FROM generate_series(1, 60) i;
  INSERT INTO booking (berth) SELECT 1 + i % 60 FROM generate_series(1, 300) i;
  INSERT INTO setting VALUES ('tide table', 'west'); INSERT INTO tide (level) SELECT i - 20 FROM generate_series(1, 40) i;`;

async function start() {
  await redis.connect();
  if (process.env.PREPARE) {
    await pool.query(SCHEMA);
    await maria.query(
      'CREATE TABLE IF NOT EXISTS cargo (id int AUTO_INCREMENT PRIMARY KEY, vessel int, tonnes int)'
    );
    for (let i = 0; i < 60; i++) await redis.set(`tide:${i}`, String(i));
  }
  app.listen(PORT, () => console.log('ready'));
}
void start();
