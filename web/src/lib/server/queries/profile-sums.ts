import type { InValue } from '@libsql/client';
import type { Frame, FrameKind } from '@tromix/core/profile/model';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { recordBytes, type SentSlice, type SumsFrames, type SumsHead } from '$lib/profile-sums';
import { oneOf } from '../db/bulk';
import { select, selectJson } from '../db/reader';
import { endpointSumsOf } from '../profiles/slice-rows';
import { namesFilter, type Filter } from './filter';

/** Slices whose weights are read at once. The first are few: a picture of them is drawn while the rest comes. */
const TOGETHER = 200;
const FIRST_TOGETHER = 40;

/** The time of a scope; of a load run, as long as it lasted. */
export async function sumsWindow(scope: Scope, nowMs: number): Promise<TimeWindow> {
  const window = scopeWindow(scope, nowMs);
  if (scope.run === undefined) return window;
  const [run] = await select<{ fromUs: number; toUs: number }>(
    'SELECT started_at_us AS fromUs, end_us AS toUs FROM load_runs WHERE id = ?',
    [scope.run]
  );
  return run ? { fromUs: run.fromUs, toUs: run.toUs || nowMs * 1000 } : { fromUs: 0, toUs: 0 };
}

/** Picks the slices of a scope, `p`. One that is of a minute or an hour belongs to the time in which it begins. */
function slicesFilter(scope: Scope, window: TimeWindow): Filter {
  const { service, endpoint } = scope;
  const names = namesFilter({ ...scope, service: '', endpoint: '' }, 'p');
  const conditions = [
    'p.start_us >= ? AND p.start_us < ?',
    ...(service ? ['p.service_id = (SELECT id FROM services WHERE name = ?)'] : []),
    ...(endpoint
      ? [
          `EXISTS (SELECT 1 FROM profile_endpoint_slices x JOIN endpoints e ON e.id = x.endpoint_id
            WHERE x.slice_id = p.id AND e.name = ?)`
        ]
      : [])
  ];
  const args: InValue[] = [window.fromUs, window.toUs];
  if (service) args.push(service);
  if (endpoint) args.push(endpoint);
  return { sql: conditions.join(' AND ') + names.sql, args: [...args, ...names.args] };
}

/** What recordings tell of a scope, in figures: how many slices of what there are. */
export async function sumsInScope(
  scope: Scope,
  nowMs: number
): Promise<{ slices: number; services: string[] }> {
  const { sql, args } = slicesFilter(scope, await sumsWindow(scope, nowMs));
  const rows = await select<{ service: string; slices: number }>(
    `SELECT s.name AS service, count(*) AS slices FROM profile_slices p JOIN services s ON s.id = p.service_id WHERE ${sql} GROUP BY s.name`,
    args
  );
  return {
    slices: rows.reduce((sum, { slices }) => sum + slices, 0),
    services: rows.map(({ service }) => service)
  };
}

interface SliceRow {
  id: number;
  valueType: 'cpu' | 'wall';
  host: number;
  pid: number;
  startUs: number;
  lengthUs: number;
  spanUs: number;
  samples: number;
  busyUs: number;
  idleUs: number;
  release: number;
  service: number;
}

/**
 * The sums of a scope as they are sent.
 * @param wanted what is weighed; '' for what most slices weigh @param withShares with the weights of each endpoint, where the scope is not of one
 */
export async function* profileSums(
  scope: Scope,
  wanted: string,
  nowMs: number,
  withShares = false
): AsyncGenerator<Uint8Array, void, undefined> {
  const window = await sumsWindow(scope, nowMs);
  const { sql, args } = slicesFilter(scope, window);
  const rows = await select<SliceRow>(
    `SELECT p.id AS id, p.value_type AS valueType, p.host_id AS host, p.pid AS pid, p.start_us AS startUs, p.length_us AS lengthUs, p.span_us AS spanUs,
        p.samples AS samples, p.busy_us AS busyUs, p.idle_us AS idleUs, p.release_id AS release, p.service_id AS service
      FROM profile_slices p WHERE ${sql} ORDER BY p.start_us`,
    args
  );
  const { valueType, valueTypes } = choose(rows, wanted);
  const slices = rows.filter((row) => row.valueType === valueType);
  const services = [...new Set(slices.map(({ service }) => service))];
  const ofEndpoint = scope.endpoint !== '';
  const head: SumsHead = {
    valueType,
    valueTypes,
    ...window,
    slices: slices.length,
    ofEndpoint,
    releases: await select(`SELECT id, name, first_us AS firstUs FROM releases WHERE ${oneOf('id')}`, [
      JSON.stringify([...new Set(slices.map(({ release }) => release))])
    ]),
    endpoints: await select(
      `SELECT e.id AS id, e.name AS name, s.name AS service FROM endpoints e JOIN services s ON s.id = e.service_id WHERE ${oneOf('e.service_id')}`,
      [JSON.stringify(services)]
    )
  };
  yield recordBytes(head);
  yield* dictionary(services);
  const only = new Set(head.endpoints.filter(({ name }) => name === scope.endpoint).map(({ id }) => id));
  for (let at = 0, to = FIRST_TOGETHER; at < slices.length; at = to, to += TOGETHER)
    yield await chunk(slices.slice(at, to), ofEndpoint ? only : null, ofEndpoint || withShares);
}

function choose(
  rows: readonly SliceRow[],
  wanted: string
): { valueType: 'cpu' | 'wall'; valueTypes: string[] } {
  const counts = { cpu: 0, wall: 0 };
  for (const { valueType } of rows) counts[valueType]++;
  const valueTypes = Object.keys(counts).filter((type) => counts[type as 'cpu' | 'wall'] > 0);
  if (wanted === 'cpu' || wanted === 'wall') return { valueType: wanted, valueTypes };
  return { valueType: counts.wall > counts.cpu ? 'wall' : 'cpu', valueTypes };
}

async function* dictionary(services: readonly number[]): AsyncGenerator<Uint8Array, void, undefined> {
  const of = JSON.stringify(services);
  const frames = await selectJson<[number, string, string, number, number, string, string]>(
    `SELECT json_group_array(json_array(id, name, file, line, col, package, kind)) FROM profile_frames WHERE ${oneOf('service_id')}`,
    [of]
  );
  const place = new Map(frames.map(([id], i) => [id, i]));
  const stacks = await selectJson<[number, number, number]>(
    `SELECT json_group_array(json_array(id, parent, frame_id)) FROM (SELECT id, parent, frame_id FROM profile_stacks WHERE ${oneOf('service_id')} ORDER BY id)`,
    [of]
  );
  const numbers = new Int32Array(3 * stacks.length);
  stacks.forEach(([id, parent, frame], i) => {
    numbers[i] = id;
    numbers[stacks.length + i] = parent;
    numbers[2 * stacks.length + i] = place.get(frame) ?? 0;
  });
  const sent: SumsFrames = {
    frames: frames.map(([, name, file, line, column, from, kind]): Frame => ({
      name,
      file,
      line,
      column,
      package: from,
      kind: kind as FrameKind
    }))
  };
  yield recordBytes(sent, [new Uint8Array(numbers.buffer)]);
}

/** @param only endpoints whose share alone is sent; null for everything */
async function chunk(
  rows: readonly SliceRow[],
  only: ReadonlySet<number> | null,
  withShares: boolean
): Promise<Uint8Array> {
  const ids = rows.map(({ id }) => id);
  const [shares, weights] = await Promise.all([
    endpointSumsOf(ids, withShares),
    only
      ? []
      : select<{ id: number; weights: ArrayBuffer }>(
          `SELECT id, weights FROM profile_slices WHERE ${oneOf('id')}`,
          [JSON.stringify(ids)]
        )
  ]);
  const wholes = new Map(weights.map((row) => [row.id, new Uint8Array(row.weights)]));
  const parts: Uint8Array[] = [];
  const sent = rows.map(({ id, host, pid, service, valueType: _, ...slice }): SentSlice => {
    const whole = wholes.get(id) ?? new Uint8Array();
    parts.push(whole);
    const of = (shares.get(id) ?? []).filter(({ endpoint }) => !only || only.has(endpoint));
    return {
      ...slice,
      process: `${service} ${host} ${pid}`,
      bytes: whole.length,
      shares: of.map(({ weights: bytes, ...share }) => {
        parts.push(bytes);
        return { ...share, bytes: bytes.length };
      })
    };
  });
  return recordBytes(sent, parts);
}
