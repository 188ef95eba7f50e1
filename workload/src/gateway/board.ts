import { ask } from '../platform/http';
import { inSpan } from '../platform/telemetry';

const STATIONS = 24;

/** The tide board of the harbour office: the next window of every station. */
export function tideBoard(tides: string, oneByOne: boolean): Promise<unknown> {
  return inSpan('assemble board', {}, async () => {
    if (!oneByOne) return ask('GET', `${tides}/tides/windows?stations=${STATIONS}`);
    const windows: unknown[] = [];
    for (let station = 1; station <= STATIONS; station++) {
      windows.push(await ask('GET', `${tides}/tides/window?station=${station}`));
    }
    return windows;
  });
}
