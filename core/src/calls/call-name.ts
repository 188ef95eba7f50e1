/** A group of calls, as far as its name goes. */
export interface NamedCall {
  kind: string;
  fingerprint: string;
  /** The service that answers; '' where it is not known. */
  callee: string;
}

/** Ports that go without saying, by what is written before the host: none of an address tells its scheme. */
const DEFAULT_PORT = /:(?:80|443)$/;

/** A remote call as a list shows it: the service that answers for its address, which is known by its port alone to nobody; else the host. */
function shortName({ kind, fingerprint, callee }: NamedCall): string {
  const [, method, host, path = ''] = /^(\S+) ([^/\s]+)(\/\S*)?$/.exec(fingerprint) ?? [];
  if (kind !== 'http' || !host) return fingerprint;
  return `${method} ${callee || host.replace(DEFAULT_PORT, '')}${path}`;
}

/** Names of groups of calls for a list, in their order. Groups that would look alike keep their whole fingerprints. */
export function callNames(calls: readonly NamedCall[]): string[] {
  const names = calls.map(shortName);
  const times = new Map<string, number>();
  for (const [i, name] of names.entries()) {
    const key = `${calls[i].kind} ${name}`;
    times.set(key, (times.get(key) ?? 0) + 1);
  }
  return names.map((name, i) => (times.get(`${calls[i].kind} ${name}`) === 1 ? name : calls[i].fingerprint));
}
