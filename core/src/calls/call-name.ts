import { groupBy } from '../group-by';

/** A group of calls, as far as its name goes. */
export interface NamedCall {
  kind: string;
  fingerprint: string;
  /** The service that answers; '' where it is not known. */
  callee: string;
}

/** Ports that go without saying, by what is written before the host: none of an address tells its scheme. */
const DEFAULT_PORT = /:(?:80|443)$/;
const ADDRESS = /^(\S+) ([^/\s:]+|\[[^\]]*\])(:\d+)?(\/\S*)?$/;

/** The name of one call: short, and alike for the same call at another address. */
export const callName = (call: NamedCall): string => FORMS[0](call);

/** From the shortest to the whole: of two calls that would look alike both take the next. */
const FORMS: ((call: NamedCall) => string)[] = [
  // The service that answers for its address, which nobody knows by its port; else the host.
  remoteName(({ callee, host, port }) => callee || `${host}${port}`.replace(DEFAULT_PORT, '')),
  remoteName(({ callee, host, port }) => `${callee || host}${port}`),
  ({ fingerprint }) => fingerprint
];

function remoteName(
  place: (address: { callee: string; host: string; port: string }) => string
): (call: NamedCall) => string {
  return ({ kind, fingerprint, callee }) => {
    const [, method, host, port = '', path = ''] = ADDRESS.exec(fingerprint) ?? [];
    return kind === 'http' && host ? `${method} ${place({ callee, host, port })}${path}` : fingerprint;
  };
}

/** Names of groups of calls for a list, in their order: short, and never two alike of one kind. */
export function callNames(calls: readonly NamedCall[]): string[] {
  const names = calls.map(FORMS[0]);
  for (const form of FORMS.slice(1)) {
    const alike = [...groupBy(names.keys(), (i) => `${calls[i].kind} ${names[i]}`).values()];
    for (const same of alike) if (same.length > 1) for (const i of same) names[i] = form(calls[i]);
  }
  return names;
}
