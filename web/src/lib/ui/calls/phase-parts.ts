import type { Outgoing } from '$lib/server/queries/calls/outgoing';

/** A phase of outgoing requests, on average over the calls that tell it. */
export interface PhasePart {
  name: string;
  ns: number;
  colour: string;
}

/** The phases of outgoing requests in their order; none where nobody tells them. */
export function phaseParts(outgoing: Outgoing): PhasePart[] {
  const { phased, answered } = outgoing;
  const parts: PhasePart[] = [
    { name: 'name look-up', ns: outgoing.lookupNs / phased, colour: 'var(--acc-cache)' },
    { name: 'connect', ns: outgoing.connectNs / phased, colour: 'var(--acc-database)' },
    { name: 'TLS', ns: outgoing.tlsNs / phased, colour: 'var(--acc-messaging)' },
    { name: 'to the first byte', ns: outgoing.firstByteNs / answered, colour: 'var(--acc-remote)' },
    { name: 'rest', ns: outgoing.restNs / answered, colour: 'var(--acc-queue)' }
  ];
  return parts.filter(({ ns }) => ns > 0 && Number.isFinite(ns));
}
