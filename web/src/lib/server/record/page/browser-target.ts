import type { NetworkLimits } from '@tromix/core/pages/slow-down';
import { browserAt, Inspector, InspectorError } from '../inspector';
import type { Place } from '../addresses';

/** A phone as browsers show one, CSS pixels (common practice). */
const PHONE = { width: 393, height: 851, deviceScaleFactor: 2.75, mobile: true };
const DESKTOP = { width: 1280, height: 800, deviceScaleFactor: 1, mobile: false };

export interface Event {
  method: string;
  params: Record<string, unknown>;
}

/** A page of a browser that nobody sees, with cookies and a cache of its own (Chrome DevTools Protocol). */
export class BrowserTarget {
  readonly #inspector: Inspector;
  readonly #session: string;
  readonly #context: string;
  readonly #heard: ((event: Event) => void)[] = [];

  private constructor(inspector: Inspector, session: string, context: string) {
    this.#inspector = inspector;
    this.#session = session;
    this.#context = context;
    inspector.on((text) => {
      const { method, params, sessionId } = JSON.parse(text) as Event & { sessionId?: string };
      if (sessionId === session) for (const hear of this.#heard) hear({ method, params });
    });
  }

  /** @throws InspectorError where no browser answers, or it makes no page */
  static async open(place: Place): Promise<BrowserTarget> {
    const inspector = await Inspector.at(place, await browserAt(place));
    try {
      const ask = async (method: string, params: object = {}): Promise<Record<string, string>> =>
        resultOf(await inspector.send(method, params)) as Record<string, string>;
      const { browserContextId } = await ask('Target.createBrowserContext', { disposeOnDetach: true });
      const { targetId } = await ask('Target.createTarget', { url: 'about:blank', browserContextId });
      const { sessionId } = await ask('Target.attachToTarget', { targetId, flatten: true });
      return new BrowserTarget(inspector, sessionId, browserContextId);
    } catch (cause) {
      inspector.close();
      throw cause;
    }
  }

  /** @returns what the command gives. @throws InspectorError */
  async send<T>(method: string, params: object = {}, withinMs?: number): Promise<T> {
    return resultOf(await this.#inspector.send(method, params, withinMs, this.#session)) as T;
  }

  on(hear: (event: Event) => void): void {
    this.#heard.push(hear);
  }

  /** The next event of a name. @throws InspectorError where none comes in time, or the browser is gone */
  next(method: string, withinMs: number, whatElse: string): Promise<void> {
    return new Promise((resolve, reject) => {
      const late = setTimeout(() => reject(new InspectorError(whatElse)), withinMs);
      this.on((event) => {
        if (event.method !== method) return;
        clearTimeout(late);
        resolve();
      });
      void this.#inspector.gone.then(() => {
        clearTimeout(late);
        reject(new InspectorError('The browser ended, or closed its debugging port.'));
      });
    });
  }

  async showAs(device: 'desktop' | 'phone'): Promise<void> {
    await this.send('Emulation.setDeviceMetricsOverride', device === 'phone' ? PHONE : DESKTOP);
    if (device === 'phone') {
      await this.send('Emulation.setTouchEmulationEnabled', { enabled: true });
      const { userAgent } = await this.send<{ userAgent: string }>('Browser.getVersion').catch(() => ({
        userAgent: 'Mozilla/5.0'
      }));
      // “Mobi” in its name is what tells phones apart (common practice).
      await this.send('Emulation.setUserAgentOverride', { userAgent: `${userAgent} Mobile` });
    }
    // Else a page behind others is taken for hidden.
    await this.send('Emulation.setFocusEmulationEnabled', { enabled: true });
  }

  async slowDown(cpu: number, network: NetworkLimits | null): Promise<void> {
    if (cpu > 1) await this.send('Emulation.setCPUThrottlingRate', { rate: cpu });
    if (network === null) return;
    await this.send('Network.enable');
    await this.send('Network.emulateNetworkConditions', {
      offline: false,
      latency: network.latencyMs,
      downloadThroughput: network.downBits / 8,
      uploadThroughput: network.upBits / 8
    });
  }

  /** Leaves nothing behind in the browser. */
  async close(): Promise<void> {
    await this.#inspector
      .send('Target.disposeBrowserContext', { browserContextId: this.#context })
      .catch(() => undefined);
    this.#inspector.close();
  }
}

const resultOf = (reply: string): unknown => (JSON.parse(reply) as { result?: unknown }).result ?? {};
