import { pathOf, templatePath } from './path-template';
import { numberOf, SpanKind, textOf, type Span } from './span';

/** What is asked for and not there, by no route: one endpoint, since such paths never end. */
export const NO_ROUTE = '(no route)';

/**
 * The endpoint an entry span serves: method and route; else RPC service and method; else messaging operation
 * and destination; else the span's name. Current and older OpenTelemetry semantic conventions are read.
 */
export function endpointOf(span: Span): string {
  const a = span.attributes;
  const method = textOf(a, 'http.request.method', 'http.method');
  if (method) {
    const route = textOf(a, 'http.route');
    if (route) return `${method} ${route}`;
    const target = textOf(a, 'url.path', 'http.target', 'url.full', 'http.url');
    if (numberOf(a, 'http.response.status_code', 'http.status_code') === 404) return NO_ROUTE;
    if (target) return `${method} ${templatePath(pathOf(target))}`;
  }
  const rpcMethod = textOf(a, 'rpc.method');
  if (rpcMethod) {
    const service = textOf(a, 'rpc.service');
    return service ? `${service}/${rpcMethod}` : rpcMethod;
  }
  const destination = textOf(a, 'messaging.destination.name', 'messaging.destination');
  if (destination) {
    const operation = textOf(
      a,
      'messaging.operation.name',
      'messaging.operation.type',
      'messaging.operation'
    );
    return `${operation || 'process'} ${destination}`;
  }
  return span.name || '(no name)';
}

/** True for an HTTP endpoint that is recognised by its path alone: such paths may never end. */
export function isUnrouted({ attributes: a }: Span): boolean {
  return textOf(a, 'http.request.method', 'http.method') !== '' && textOf(a, 'http.route') === '';
}

/** True for a span that begins the work a service does for somebody: SERVER or CONSUMER. */
export function isEntry(span: Span): boolean {
  return span.kind === SpanKind.SERVER || span.kind === SpanKind.CONSUMER;
}
