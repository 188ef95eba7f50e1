import type { Routes } from '../platform/http';
import { Files } from '../platform/files';
import { log } from '../platform/log';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';

interface Consignee {
  name: string;
  agent?: Consignee;
}

/** Consignees name agents, who may name others. Those of one house name each other. */
function consigneeOf(goods: number): Consignee {
  const owner: Consignee = { name: `house ${goods}` };
  const agent: Consignee = { name: `agent of house ${goods}`, agent: owner };
  if (goods % 20 === 0) owner.agent = agent;
  return owner;
}

function lastAgentOf(consignee: Consignee): Consignee {
  return consignee.agent ? agentBehind(consignee.agent) : consignee;
}
function agentBehind(consignee: Consignee): Consignee {
  return lastAgentOf(consignee);
}

/** Releases of goods: who they are handed to is found out later, when nobody waits any more. */
export function releaseRoutes(settings: Settings): Routes {
  const safe = (consignee: Consignee): Consignee => {
    const seen = new Set<Consignee>();
    let at = consignee;
    while (at.agent && !seen.has(at.agent)) seen.add((at = at.agent));
    return at;
  };
  const find = settings.faults.has('endless-agents') ? lastAgentOf : safe;
  const files = new Files(settings.dataFolder);
  return {
    'POST /goods/:id/release': async ({ path }) => {
      const goods = Number(path.id);
      const note = 'releases/today.txt';
      files.setUp(note, () => '');
      return inSpan('release goods', { 'quillhaven.goods': goods }, async () => {
        await files.append(note, `goods ${goods} released\n`);
        setTimeout(() => log.info(`goods ${goods} are handed to ${find(consigneeOf(goods)).name}`), 40);
        return { goods, released: true };
      });
    }
  };
}
