import { cutText } from '../text/well-formed';
import { numberOf, textOf, type Attributes, type Resource } from './span';

/** The name OpenTelemetry gives a service that does not name itself (semantic conventions, `service.name`). */
const UNNAMED_SERVICE = 'unknown_service';

/** Of a process that does not say its release. */
export const NO_RELEASE = 'no release';

/** Process ids of every system fit into 32 bits (common practice); what is no such number counts as not said. */
export const pidFrom = (value: number | undefined): number =>
  value !== undefined && Number.isInteger(value) && value > 0 && value < 2 ** 32 ? value : 0;

/** Names of services, hosts and releases are cut here, characters. */
const MAX_NAME = 300;

/** Reads who sent the spans from OTLP resource attributes (OpenTelemetry semantic conventions for resources). */
export function resourceFrom(attributes: Attributes): Resource {
  const service = cutText(textOf(attributes, 'service.name'), MAX_NAME) || UNNAMED_SERVICE;
  const host =
    cutText(
      textOf(attributes, 'host.name', 'k8s.pod.name', 'container.name', 'service.instance.id'),
      MAX_NAME
    ) || 'unnamed host';
  const release =
    cutText(textOf(attributes, 'service.version', 'deployment.version'), MAX_NAME) || NO_RELEASE;
  const pid = pidFrom(numberOf(attributes, 'process.pid'));
  const instance = cutText(textOf(attributes, 'service.instance.id'), MAX_NAME);
  return {
    service,
    host,
    release,
    pid,
    attributes,
    key: JSON.stringify([service, host, release, pid, instance])
  };
}
