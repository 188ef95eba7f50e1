import { InspectorError } from './inspector';

/** `{"id":7,"result":{"profile":{…}}}`: the profile is cut out rather than parsed and written again. @throws InspectorError where there is none */
export function profileIn(reply: string): string {
  const head = /^\s*\{\s*"id"\s*:\s*\d+\s*,\s*"result"\s*:\s*\{\s*"profile"\s*:\s*/.exec(reply);
  const tail = /\}\s*\}\s*$/.exec(reply.slice(-20));
  if (!head || !tail) throw new InspectorError('The process answered with something that is no profile.');
  return reply.slice(head[0].length, reply.length - tail[0].length);
}
