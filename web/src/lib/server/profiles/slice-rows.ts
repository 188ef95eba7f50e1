import type { EndpointSums } from '@tromix/core/profile/sums/merge-slices';
import { oneOf } from '../db/bulk';
import { select } from '../db/reader';

/** A stored slice. */
export interface SliceRow {
  id: number;
  valueType: string;
  serviceId: number;
  hostId: number;
  releaseId: number;
  pid: number;
  startUs: number;
  lengthUs: number;
  spanUs: number;
  samples: number;
  busyUs: number;
  idleUs: number;
  weights: ArrayBuffer;
}

export const SLICE_COLUMNS = `id, value_type AS valueType, service_id AS serviceId, host_id AS hostId, release_id AS releaseId, pid,
  start_us AS startUs, length_us AS lengthUs, span_us AS spanUs, samples, busy_us AS busyUs, idle_us AS idleUs, weights`;

/** What endpoints had of some slices, by slice. @param withWeights false where only figures are wanted: their weights are none */
export async function endpointSumsOf(
  slices: readonly number[],
  withWeights = true
): Promise<Map<number, EndpointSums[]>> {
  const rows = await select<Omit<EndpointSums, 'weights'> & { sliceId: number; weights: ArrayBuffer }>(
    `SELECT slice_id AS sliceId, endpoint_id AS endpoint, requests, busy_us AS busyUs, shared_us AS sharedUs, ${withWeights ? 'weights' : "x'' AS weights"}
      FROM profile_endpoint_slices WHERE ${oneOf('slice_id')}`,
    [JSON.stringify(slices)]
  );
  const found = new Map<number, EndpointSums[]>();
  for (const { sliceId, weights, ...sums } of rows) {
    const of = found.get(sliceId);
    const one = { ...sums, weights: new Uint8Array(weights) };
    if (of) of.push(one);
    else found.set(sliceId, [one]);
  }
  return found;
}
