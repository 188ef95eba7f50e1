/** How often an assistant has asked, since the server started. */
export interface AssistantUse {
  /** As it names itself. */
  client: string;
  version: string;
  calls: number;
  refused: number;
  lastMs: number;
  /** By tool, most often first. */
  tools: [name: string, calls: number][];
}

interface Counted {
  calls: number;
  refused: number;
  lastMs: number;
  tools: Map<string, number>;
}

/** Names come from outside: no more than these are kept apart. */
const MOST_CLIENTS = 50;
const MAX_NAME = 80;
const used = new Map<string, Counted>();
const SEPARATOR = '\n';

/** Counts one call. @param refused true where it was no question that could be answered */
export function countUse(client: { name: string; version: string }, tool: string, refused: boolean): void {
  const named = [client.name, client.version]
    .map((text) => text.replace(/\s+/g, ' ').slice(0, MAX_NAME))
    .join(SEPARATOR);
  const key = used.has(named) || used.size < MOST_CLIENTS ? named : `others${SEPARATOR}`;
  const one = used.get(key) ?? { calls: 0, refused: 0, lastMs: 0, tools: new Map<string, number>() };
  one.calls++;
  if (refused) one.refused++;
  one.lastMs = Date.now();
  one.tools.set(tool, (one.tools.get(tool) ?? 0) + 1);
  used.set(key, one);
}

/** Which assistants have asked, those that asked last first. */
export const assistantUse = (): AssistantUse[] =>
  [...used]
    .map(([key, { tools, ...counted }]): AssistantUse => {
      const [client, version] = key.split(SEPARATOR);
      return { client, version, ...counted, tools: [...tools].sort((a, b) => b[1] - a[1]) };
    })
    .sort((a, b) => b.lastMs - a.lastMs);
