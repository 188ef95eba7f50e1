import type { LoadPlanInput } from '@tromix/core/load/plan';

/** A list of goods, as a ship hands it in. */
const MANIFEST = JSON.stringify(
  Array.from({ length: 35 }, (_, i) => ({ goods: `goods ${i}`, tonnes: '{1..40}' }))
).replaceAll('"{1..40}"', '{1..40}');

/** What the harbour office does, and how often: of the gateway at an address. */
export const harbourSteps = (gateway: string): LoadPlanInput['steps'] => [
  { weight: 46, url: `${gateway}/vessels/{9100001..9100399}` },
  { weight: 24, url: `${gateway}/manifests/{1..200}` },
  { weight: 9, url: `${gateway}/board` },
  { weight: 12, method: 'POST', url: `${gateway}/calls/{1..60}/berth` },
  { weight: 4, method: 'POST', url: `${gateway}/manifests`, body: MANIFEST },
  { weight: 3, method: 'POST', url: `${gateway}/roster/entries`, body: '{"pilot":{1..30}}', together: 4 }
];
