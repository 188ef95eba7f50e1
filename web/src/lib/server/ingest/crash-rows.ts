import { lastName } from '@tromix/core/failures/function-name';
import type { FailureIdentity } from '@tromix/core/failures/identity';
import { resourceFrom } from '@tromix/core/trace/resource';
import { failureOutside, type FailureRecord } from './booked-rows';
import type { Dictionary } from './dictionary';
import type { evidence } from '../db/schema';

/** Makes the failure that a crash is: it happens outside of every request, whatever requests it cuts off. */
export function failureOfCrash(
  { id, service, host, release, pid, startedAtUs }: typeof evidence.$inferInsert,
  identity: FailureIdentity,
  dictionary: Dictionary
): () => FailureRecord {
  const attributes = new Map(
    Object.entries({ 'service.name': service, 'host.name': host, 'service.version': release }).filter(
      ([, value]) => value !== ''
    )
  );
  const atUs = startedAtUs ?? Date.now() * 1000;
  const process = dictionary.resource({ ...resourceFrom(attributes), pid }, atUs);
  return failureOutside({
    process,
    group: dictionary.failureGroup(identity, 'crash'),
    way: dictionary.failureWay([
      {
        service: process.serviceName,
        label: lastName(identity.type) || identity.message || 'the process ended'
      }
    ]),
    atUs,
    evidenceId: id
  });
}
