import { SpanKind, StatusCode, type Attributes, type Resource, type Span } from '../trace/span';
import { stepName, stepPath, type LoadPlan } from './plan';
import { FAULTS, type Sample } from './samples';
import { traceOf } from './trace-ids';

/** Attributes that name a run on the resource of its spans. */
export const RUN_KEY = 'tromix.load.run.key';
export const RUN_NAME = 'tromix.load.run.name';

/** The process that sends a run, as its spans name it. */
export function runResource({ key, name }: { key: string; name: string }): Resource {
  const attributes: Attributes = new Map([
    ['service.name', 'load run'],
    [RUN_KEY, key],
    [RUN_NAME, name]
  ]);
  return { service: 'load run', host: '', release: '', pid: 0, attributes, key };
}

/**
 * The client span of a request of a run (OpenTelemetry semantic conventions 1.27, HTTP spans).
 */
export function spanOf(
  resource: Resource,
  { steps }: Pick<LoadPlan, 'steps'>,
  startedAtUs: number,
  sample: Sample
): Span {
  const step = steps[sample.step];
  const { hostname, port, protocol } = new URL(step.url);
  const attributes: Attributes = new Map<string, string | number>([
    ['http.request.method', step.method],
    ['server.address', hostname],
    ['server.port', Number(port || (protocol === 'https:' ? 443 : 80))],
    ['url.path', stepPath(step)],
    ['tromix.load.step', sample.step + 1],
    ['tromix.load.user', sample.user + 1]
  ]);
  if (sample.status > 0) attributes.set('http.response.status_code', sample.status);
  if (sample.fault > 0) attributes.set('error.type', FAULTS[sample.fault]);
  return {
    ...traceOf(resource.key, sample.number),
    parentId: '',
    name: stepName(step),
    kind: SpanKind.CLIENT,
    startUs: startedAtUs + Math.round(sample.intendedUs + sample.lateUs),
    startNs: 0,
    durationNs: Math.round(sample.durationUs) * 1000,
    status: sample.fault > 0 ? StatusCode.ERROR : StatusCode.UNSET,
    statusMessage: '',
    attributes,
    events: [],
    resource,
    call: null
  };
}
