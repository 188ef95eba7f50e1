import { proxy, type Remote } from 'comlink';
import type { Profile } from '@tromix/core/profile/model';
import type { OriginsOverTime } from '@tromix/core/profile/strip';
import { openProfile, type OpenProfile } from './open-profile';
import type {
  OpenedProfile,
  OpenedSums,
  ProfilePart,
  ProfileService,
  ProfileView,
  ViewRequest
} from '$lib/workers/profile.worker';

const STRIP_BINS = 410;

/**
 * Stored files, the recordings of a scope (and whether source folders are configured, where their source maps may lie), or a profile made of
 * something else.
 */
export type ProfileSource =
  | { parts: ProfilePart[]; measure: string; hasSources: boolean }
  | { sums: string; hasSources: boolean }
  | { profile: Profile };

/** One open profile: its worker, and the view that was asked for last. */
export class ProfileClient {
  opened = $state.raw<OpenedProfile | null>(null);
  /** The same, where it is of the recordings of a scope. */
  sums = $state.raw<OpenedSums | null>(null);
  view = $state.raw<ProfileView | null>(null);
  origins = $state.raw<OriginsOverTime | null>(null);
  error = $state('');
  readonly #open: OpenProfile;
  readonly service: Remote<ProfileService>;
  #wanted: ViewRequest | null = null;
  #busy = false;

  constructor(source: ProfileSource) {
    this.#open = openProfile();
    this.#open.worker.addEventListener(
      'error',
      (event) => (this.error = event.message || 'The profile could not be read.')
    );
    this.service = this.#open.service;
    void this.#read(source).catch((cause: Error) => this.#fail(cause));
  }

  async #read(source: ProfileSource): Promise<void> {
    const opened = await this.#opened(source);
    if ('error' in opened) this.error = opened.error;
    else this.#take(opened);
  }

  #take(opened: OpenedProfile | OpenedSums): void {
    this.opened = opened;
    if ('sums' in opened) this.sums = opened;
    void this.#work();
  }

  #opened(source: ProfileSource): Promise<OpenedProfile | OpenedSums | { error: string }> {
    if ('profile' in source) return this.service.take(source.profile, STRIP_BINS);
    const { hasSources } = source;
    if ('sums' in source)
      return this.service.openSums(
        source.sums,
        { hasSources, stripBins: STRIP_BINS },
        proxy((part) => this.#take(part))
      );
    return this.service.open(source.parts, { hasSources, measure: source.measure, stripBins: STRIP_BINS });
  }

  /** Asks for another view. While the worker is busy only the last one asked for counts. */
  show(request: ViewRequest): void {
    this.#wanted = request;
    void this.#work();
  }

  /** Asks where the time went by origin of code. */
  async showOrigins(thread: number): Promise<void> {
    this.origins = await this.service.origins(STRIP_BINS / 2, thread);
  }

  async #work(): Promise<void> {
    if (this.#busy || !this.opened) return;
    this.#busy = true;
    try {
      while (this.#wanted) {
        const wanted = this.#wanted;
        this.#wanted = null;
        this.view = await this.service.view(wanted);
      }
    } catch (cause) {
      this.#fail(cause as Error);
    }
    this.#busy = false;
  }

  #fail({ message }: Error): void {
    this.error = message || 'The profile could not be read.';
  }

  close(): void {
    this.#open.close();
  }
}
