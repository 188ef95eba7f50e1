import { wrap, type Remote } from 'comlink';
import type { OpenedProfile, ProfileService, ProfileView } from '$lib/workers/profile.worker';

const STRIP_BINS = 410;

/** One open profile: its worker, and the view of the selection that was asked for last. */
export class ProfileSession {
  opened = $state.raw<OpenedProfile | null>(null);
  view = $state.raw<ProfileView | null>(null);
  error = $state('');
  readonly #worker: Worker;
  readonly #service: Remote<ProfileService>;
  #wanted: { fromNs: number; toNs: number } | null = null;
  #busy = false;

  constructor(evidenceId: string) {
    this.#worker = new Worker(new URL('../../workers/profile.worker.ts', import.meta.url), {
      type: 'module'
    });
    this.#worker.addEventListener(
      'error',
      (event) => (this.error = event.message || 'The profile could not be read.')
    );
    this.#service = wrap<ProfileService>(this.#worker);
    void this.#open(evidenceId);
  }

  async #open(evidenceId: string): Promise<void> {
    const opened = await this.#service.open(`/api/evidence/${evidenceId}/content`, STRIP_BINS);
    if ('error' in opened) {
      this.error = opened.error;
      return;
    }
    this.opened = opened;
    void this.#work();
  }

  /** Asks for another selection. While the worker is busy only the last one asked for counts. */
  select(fromNs: number, toNs: number): void {
    this.#wanted = { fromNs, toNs };
    void this.#work();
  }

  async #work(): Promise<void> {
    if (this.#busy || !this.opened) return;
    this.#busy = true;
    while (this.#wanted) {
      const { fromNs, toNs } = this.#wanted;
      this.#wanted = null;
      this.view = await this.#service.view({ fromNs, toNs, includeIdle: false });
    }
    this.#busy = false;
  }

  close(): void {
    this.#worker.terminate();
  }
}
