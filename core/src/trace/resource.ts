import { numberOf, textOf, type Attributes, type Resource } from './span';

/** The name OpenTelemetry gives a service that does not name itself (semantic conventions, `service.name`). */
const UNNAMED_SERVICE = 'unknown_service';

/** Reads who sent the spans from OTLP resource attributes (OpenTelemetry semantic conventions for resources). */
export function resourceFrom(attributes: Attributes): Resource {
  const service = textOf(attributes, 'service.name') || UNNAMED_SERVICE;
  const host =
    textOf(attributes, 'host.name', 'k8s.pod.name', 'container.name', 'service.instance.id') ||
    'unnamed host';
  const release = textOf(attributes, 'service.version', 'deployment.version') || 'no release';
  const pid = numberOf(attributes, 'process.pid') ?? 0;
  const instance = textOf(attributes, 'service.instance.id');
  return {
    service,
    host,
    release,
    pid,
    attributes,
    key: JSON.stringify([service, host, release, pid, instance])
  };
}
