/**
 * The same harbour with Fastify and TypeORM, whose instrumentations do not come with the automatic ones: this file registers them, as their own
 * instructions say.
 */
require('reflect-metadata');
const { registerInstrumentations } = require('@opentelemetry/instrumentation');
const { FastifyOtelInstrumentation } = require('@fastify/otel');
const { TypeormInstrumentation } = require('@opentelemetry/instrumentation-typeorm');

const fastifyOtel = new FastifyOtelInstrumentation({ registerOnInitialization: true });
registerInstrumentations({ instrumentations: [fastifyOtel, new TypeormInstrumentation()] });

const fastify = require('fastify');
const { DataSource, EntitySchema } = require('typeorm');

const Vessel = new EntitySchema({
  name: 'Vessel',
  tableName: 'vessel',
  columns: { id: { type: Number, primary: true }, name: { type: String } },
  relations: {
    calls: { type: 'one-to-many', target: 'PortCall', inverseSide: 'ship' }
  }
});
const PortCall = new EntitySchema({
  name: 'PortCall',
  tableName: 'port_call',
  columns: { id: { type: Number, primary: true }, vessel: { type: Number }, due: { type: String } },
  relations: {
    ship: { type: 'many-to-one', target: 'Vessel', joinColumn: { name: 'vessel' }, inverseSide: 'calls' }
  }
});
const data = new DataSource({
  type: 'postgres',
  host: '127.0.0.1',
  username: 'quay',
  password: 'quay',
  database: 'quay',
  entities: [Vessel, PortCall]
});

async function main() {
  await data.initialize();
  const [vessels, calls] = [data.getRepository('Vessel'), data.getRepository('PortCall')];
  const app = fastify();
  app.addHook('onRequest', async () => undefined);
  app.addHook('preHandler', async () => undefined);
  app.get('/pilots/:id', async (request) => ({ id: request.params.id }));
  /** One after another, by the mapper. */
  app.get('/mapped/:berth', async () => {
    const list = await vessels.find({ take: 30, order: { id: 'ASC' } });
    for (const vessel of list) vessel.calls = await calls.findBy({ vessel: vessel.id });
    return list;
  });
  /** The same in one query. */
  app.get('/joined', async () => vessels.find({ take: 30, relations: { calls: true } }));
  app.post('/notes', async (request, reply) => reply.code(201).send({ text: request.body.text }));
  await app.listen({ port: Number(process.env.PORT), host: '127.0.0.1' });
  console.log('ready');
}
main();
