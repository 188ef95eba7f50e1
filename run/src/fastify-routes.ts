import { subscribe } from 'node:diagnostics_channel';
import { context } from '@opentelemetry/api';
import { getRPCMetadata, RPCType } from '@opentelemetry/core';

/** What is used of Fastify. */
interface Fastify {
  addHook: (
    name: 'onRequest',
    hook: (request: FastifyRequest, reply: unknown, done: () => void) => void
  ) => void;
}
interface FastifyRequest {
  routeOptions?: { url?: string };
}

/**
 * Names the route of requests that Fastify serves. It announces each of its instances by itself
 * (Fastify's documentation, “Hooks”, diagnostics channel `fastify.initialization`); the span of the request is that of HTTP.
 */
export function nameFastifyRoutes(): void {
  subscribe('fastify.initialization', (message) => {
    const { fastify } = message as { fastify: Fastify };
    fastify.addHook('onRequest', (request, _, done) => {
      const metadata = getRPCMetadata(context.active());
      if (metadata?.type === RPCType.HTTP && request.routeOptions?.url)
        metadata.route = request.routeOptions.url;
      done();
    });
  });
}
