import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath, pathToFileURL } from 'node:url';
import WebSocket from 'ws';

interface Reply {
  id: number;
  result?: { profile?: CpuProfile & AllocationProfile; result?: { value?: string } };
  error?: { message: string };
}
interface CpuProfile {
  startTime: number;
  nodes: { callFrame: { url: string } }[];
}
interface AllocationNode {
  callFrame: { url: string };
  children: AllocationNode[];
}
interface AllocationProfile {
  head: AllocationNode;
}

export interface RecordedProfile {
  /** The profile as V8 gave it, with the sources' folder written as `file:///srv/quillhaven/`. */
  json: string;
  /** Epoch microseconds of the profile's start. */
  startedAtUs: number;
}

type Call = (method: string, params?: object) => Promise<Reply>;

const SOURCES = new URL('..', import.meta.url).href;
const ROOT = pathToFileURL(fileURLToPath(new URL('../../..', import.meta.url))).href;
const PUBLISHED = 'file:///srv/quillhaven/';
const CLOCKS =
  'JSON.stringify([performance.timeOrigin + performance.now(), Number(process.hrtime.bigint()) / 1000])';

/** Records CPU samples of a process on this machine through its V8 inspector, for a limited time. */
export async function recordCpuProfile(inspectorPort: number, seconds: number): Promise<RecordedProfile> {
  return withInspector(inspectorPort, async (call) => {
    await call('Profiler.enable');
    await call('Profiler.setSamplingInterval', { interval: 1000 });
    const { wallUs, monotonicUs } = await clocks(call);
    await call('Profiler.start');
    await sleep(seconds * 1000);
    const profile = (await call('Profiler.stop')).result!.profile!;
    for (const { callFrame } of profile.nodes) callFrame.url = publish(callFrame.url);
    // V8's clock and hrtime are the same monotonic clock: their distance to the wall clock dates the start.
    const startedAtUs = Math.round(wallUs - (monotonicUs - profile.startTime));
    return { json: JSON.stringify(profile), startedAtUs };
  });
}

/** Records where a process allocates, one sample for every 32 KB, for a limited time. */
export async function recordAllocations(inspectorPort: number, seconds: number): Promise<RecordedProfile> {
  return withInspector(inspectorPort, async (call) => {
    const { wallUs } = await clocks(call);
    await call('HeapProfiler.startSampling', {
      samplingInterval: 32_768,
      includeObjectsCollectedByMajorGC: true,
      includeObjectsCollectedByMinorGC: true
    });
    await sleep(seconds * 1000);
    const profile = (await call('HeapProfiler.stopSampling')).result!.profile!;
    const open = [profile.head];
    for (let node = open.pop(); node; node = open.pop()) {
      node.callFrame.url = publish(node.callFrame.url);
      open.push(...node.children);
    }
    return { json: JSON.stringify(profile), startedAtUs: Math.round(wallUs) };
  });
}

async function clocks(call: Call): Promise<{ wallUs: number; monotonicUs: number }> {
  const { result } = await call('Runtime.evaluate', { expression: CLOCKS });
  const [wallMs, monotonicUs] = JSON.parse(result!.result!.value!) as [number, number];
  return { wallUs: wallMs * 1000, monotonicUs };
}

async function withInspector<T>(port: number, work: (call: Call) => Promise<T>): Promise<T> {
  const answer = await fetch(`http://127.0.0.1:${port}/json/list`, { redirect: 'error' });
  const list = (await answer.json()) as { webSocketDebuggerUrl: string }[];
  const socket = new WebSocket(list[0].webSocketDebuggerUrl, {
    perMessageDeflate: false,
    maxPayload: 512 * 1024 * 1024
  });
  await new Promise((resolve, reject) => socket.once('open', resolve).once('error', reject));
  let next = 1;
  const call: Call = (method, params = {}) => {
    const id = next++;
    return new Promise((resolve, reject) => {
      const hear = (data: WebSocket.RawData): void => {
        const reply = JSON.parse(String(data)) as Reply;
        if (reply.id !== id) return;
        socket.off('message', hear);
        if (reply.error) reject(new Error(reply.error.message));
        else resolve(reply);
      };
      socket.on('message', hear);
      socket.send(JSON.stringify({ id, method, params }));
    });
  };
  try {
    return await work(call);
  } finally {
    socket.close();
  }
}

function publish(url: string): string {
  if (url.startsWith(SOURCES)) return PUBLISHED + url.slice(SOURCES.length);
  return url.startsWith(ROOT) ? PUBLISHED + url.slice(ROOT.length) : url;
}
