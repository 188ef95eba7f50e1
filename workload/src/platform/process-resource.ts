import { resourceFromAttributes, type Resource } from '@opentelemetry/resources';
import type { Settings } from './settings';

/** What names this process in everything it sends. */
export const processResource = ({ service, release, host }: Settings): Resource =>
  resourceFromAttributes({
    'service.name': service,
    'service.version': release,
    'service.namespace': 'quillhaven',
    'host.name': host,
    'process.pid': process.pid,
    'process.runtime.name': 'nodejs'
  });
