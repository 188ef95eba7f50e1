import type { LoadPlan } from '@tromix/core/load/plan';

/** Hosts of this machine's loopback range: RFC 1122, 3.2.1.3 (127/8), RFC 4291 (::1), RFC 6761 (localhost). */
const LOOPBACK = /^(?:127(?:\.\d{1,3}){3}|localhost|\[::1\])$/;

/** A place that may be sent to besides the loopback range. */
export interface Target {
  host: string;
  /** '' for every port. */
  port: string;
}

/**
 * Reads `shop.test:8443, 10.0.0.7`.
 * @returns the places, or what is wrong.
 */
export function readTargets(text: string): Target[] | { wrong: string } {
  const targets: Target[] = [];
  for (const item of text.split(',').map((part) => part.trim())) {
    if (item === '') continue;
    const [, host, port = ''] = /^(\[[0-9a-f:]+\]|[\w.-]+)(?::(\d{1,5}))?$/i.exec(item) ?? [];
    if (host === undefined || Number(port) > 65_535)
      return { wrong: `expected hosts like 10.0.0.7 or staging.test:8443, but found ${item}` };
    targets.push({ host: host.toLowerCase(), port });
  }
  return targets;
}

const DEFAULT_PORTS: Record<string, string> = { 'http:': '80', 'https:': '443' };

const OF_LOAD = { what: 'Load runs only send', setting: 'TROMIX_LOAD_TARGETS' };

/** Why nothing may be sent to an address; '' where it may. @param words what is sent, and the setting that allows more */
export function refusedTarget(address: string, targets: readonly Target[], words = OF_LOAD): string {
  if (!URL.canParse(address))
    return `Expected an address such as http://127.0.0.1:3000/board, but found ${address}.`;
  const { protocol, hostname, port } = new URL(address);
  if (!(protocol in DEFAULT_PORTS)) return `Expected an http or https address, but found ${protocol}//.`;
  const at = port || DEFAULT_PORTS[protocol];
  const named = targets.some(
    (target) => target.host === hostname && (target.port === '' || target.port === at)
  );
  return named || LOOPBACK.test(hostname)
    ? ''
    : `${words.what} to this machine’s loopback range. Name ${hostname}:${at} in the setting ${words.setting} to allow it.`;
}

/** Why a plan may not be sent, with the step it is about; '' where all of them may be. */
export function refusedStep({ steps }: LoadPlan, targets: readonly Target[]): string {
  for (const [i, { url }] of steps.entries()) {
    const refused = refusedTarget(url, targets);
    if (refused) return steps.length === 1 ? refused : `steps ${i + 1} url: ${refused}`;
  }
  return '';
}
