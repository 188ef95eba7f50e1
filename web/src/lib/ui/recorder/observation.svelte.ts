import type { Observed, ObserveOrder } from '$lib/server/record/observe';
import { send } from '$lib/ui/frame/send';

const LOOK_MS = 400;

/** One look at a function from inside, followed until it ends. To be made while a component is set up. */
export class ObservationClient {
  observed = $state.raw<Observed | null>(null);
  error = $state('');
  starting = $state(false);
  #id = '';
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    $effect(() => () => clearTimeout(this.#timer));
  }

  get isRunning(): boolean {
    return this.starting || (this.observed !== null && this.observed.ended === '');
  }

  async start(order: ObserveOrder & { address: string }): Promise<void> {
    clearTimeout(this.#timer);
    [this.error, this.observed, this.starting] = ['', null, true];
    try {
      ({ id: this.#id } = await send<{ id: string }>('POST', '/api/observations', order));
      await this.#look();
    } catch (cause) {
      this.error = (cause as Error).message;
    }
    this.starting = false;
  }

  async end(): Promise<void> {
    await send('DELETE', `/api/observations/${this.#id}`).catch(
      (cause: Error) => (this.error = cause.message)
    );
  }

  async #look(): Promise<void> {
    try {
      this.observed = await send<Observed>('GET', `/api/observations/${this.#id}`);
      if (this.observed.ended === '') this.#timer = setTimeout(() => void this.#look(), LOOK_MS);
    } catch (cause) {
      this.error = (cause as Error).message;
      this.observed = this.observed && { ...this.observed, ended: this.error };
    }
  }
}
