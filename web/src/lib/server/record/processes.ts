import { resourceOfPid } from '../queries/recordings';
import { callRecorder } from '../workers';
import { addressOf, type Place } from './addresses';

/** Processes whose inspectors answer at some places, named by what spans with their ids say where they say nothing themselves. */
export async function recordableProcesses(places: readonly Place[]) {
  const found = await callRecorder((recorder) => recorder.targets([...places]));
  return Promise.all(
    found.map(async ({ place, ...facts }) => {
      const known = await resourceOfPid(facts.pid);
      return {
        address: addressOf(place),
        ...facts,
        service: facts.service || known?.service || '',
        host: known?.host ?? facts.host,
        release: facts.release || known?.release || ''
      };
    })
  );
}
