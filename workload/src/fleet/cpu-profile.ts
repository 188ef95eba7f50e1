import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath, pathToFileURL } from 'node:url';
import WebSocket from 'ws';

interface Reply {
  id: number;
  result?: { profile?: V8Profile; result?: { value?: string } };
  error?: { message: string };
}
interface V8Profile {
  startTime: number;
  nodes: { callFrame: { url: string } }[];
}

export interface RecordedProfile {
  /** The profile as V8 gave it, with the sources' folder written as `file:///srv/quillhaven/`. */
  json: string;
  /** Epoch microseconds of the profile's start. */
  startedAtUs: number;
}

const SOURCES = new URL('..', import.meta.url).href;
const ROOT = pathToFileURL(fileURLToPath(new URL('../../..', import.meta.url))).href;
const PUBLISHED = 'file:///srv/quillhaven/';
const CLOCKS =
  'JSON.stringify([performance.timeOrigin + performance.now(), Number(process.hrtime.bigint()) / 1000])';

/** Records CPU samples of a process on this machine through its V8 inspector, for a limited time. */
export async function recordCpuProfile(
  inspectorPort: number,
  seconds: number,
  intervalUs = 1000
): Promise<RecordedProfile> {
  const list = (await (
    await fetch(`http://127.0.0.1:${inspectorPort}/json/list`, { redirect: 'error' })
  ).json()) as { webSocketDebuggerUrl: string }[];
  const socket = new WebSocket(list[0].webSocketDebuggerUrl, {
    perMessageDeflate: false,
    maxPayload: 512 * 1024 * 1024
  });
  await new Promise((resolve, reject) => socket.once('open', resolve).once('error', reject));
  let next = 1;
  const call = (method: string, params: object = {}): Promise<Reply> => {
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
    await call('Profiler.enable');
    await call('Profiler.setSamplingInterval', { interval: intervalUs });
    const clocks = await call('Runtime.evaluate', { expression: CLOCKS });
    const [wallMs, monotonicUs] = JSON.parse(clocks.result!.result!.value!) as [number, number];
    await call('Profiler.start');
    await sleep(seconds * 1000);
    const profile = (await call('Profiler.stop')).result!.profile!;
    for (const { callFrame } of profile.nodes) callFrame.url = publish(callFrame.url);
    // V8's clock and hrtime are the same monotonic clock: their distance to the wall clock dates the start.
    const startedAtUs = Math.round(wallMs * 1000 - (monotonicUs - profile.startTime));
    return { json: JSON.stringify(profile), startedAtUs };
  } finally {
    socket.close();
  }
}

function publish(url: string): string {
  if (url.startsWith(SOURCES)) return PUBLISHED + url.slice(SOURCES.length);
  return url.startsWith(ROOT) ? PUBLISHED + url.slice(ROOT.length) : url;
}
