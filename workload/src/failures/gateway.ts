import { trace } from '@opentelemetry/api';
import { ask, type Routes } from '../platform/http';
import { log } from '../platform/log';
import type { Settings } from '../platform/settings';
import { HttpError } from './http-error';

export class BadGateway extends HttpError {}

const AGENTS = 9;

/** What ship agents ask of the front door. */
export function agentRoutes(settings: Settings): Routes {
  let next = 0;
  const peer = (service: string): string => {
    const addresses = settings.peers[service];
    return addresses[next++ % addresses.length];
  };
  const named = (call: number): void =>
    void trace.getActiveSpan()?.setAttribute('user.id', `agent-${1 + (call % AGENTS)}`);
  return {
    'POST /calls/:id/pilot': async ({ path, query }) => {
      const call = Number(path.id);
      named(call);
      const window = query.get('window') ?? 'day';
      trace.getActiveSpan()?.setAttribute('berth.window', window);
      try {
        return await ask('POST', `${peer('pilots')}/calls/${call}/pilot?window=${window}`);
      } catch {
        throw new BadGateway(502, 'The pilots cannot be reached.');
      }
    },
    'POST /goods/:id/release': async ({ path }) => {
      named(Number(path.id));
      try {
        return await ask('POST', `${peer('manifests')}/goods/${path.id}/release`);
      } catch (error) {
        log.error('goods could not be released', { goods: path.id });
        throw new BadGateway(502, (error as Error).message);
      }
    }
  };
}
