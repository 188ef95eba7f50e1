import type { Entry } from '@tromix/core/case/case';
import { Refusal, send } from '$lib/ui/frame/send';

const AFTER_MS = 500;
const RETRY_MS = 4000;

/** Where a text that is not stored yet waits in this browser. */
const draftKey = (caseId: string, entryId: string): string => `tromix-note-${caseId}-${entryId}`;

/**
 * Saves a text as it is typed. What is not stored yet stands in this browser too, so that neither a reload nor a broken connection loses it; where somebody else changed the
 * text meanwhile, nothing is overwritten.
 */
export class NoteSaver {
  text = $state('');
  state = $state<'saved' | 'saving' | 'waiting' | 'conflict'>('saved');
  /** What somebody else wrote meanwhile. */
  theirs = $state('');
  readonly #caseId: string;
  #entryId: string;
  #title: string;
  #version: number;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #busy = false;
  #onadded: () => void;

  /** @param entry null for a note that does not exist yet: it is made with its first words. */
  constructor(
    caseId: string,
    entry: Pick<Entry, 'id' | 'title' | 'text' | 'version'> | null,
    onadded = (): void => undefined
  ) {
    this.#caseId = caseId;
    this.#entryId = entry?.id ?? '';
    this.#title = entry?.title ?? 'Note';
    this.#version = entry?.version ?? 0;
    this.#onadded = onadded;
    const draft = localStorage.getItem(draftKey(caseId, this.#entryId));
    this.text = draft ?? entry?.text ?? '';
    if (draft !== null && draft !== entry?.text) this.change(draft);
  }

  /** Whether it exists on the server. */
  get isThere(): boolean {
    return this.#entryId !== '';
  }

  change(text: string): void {
    this.text = text;
    localStorage.setItem(draftKey(this.#caseId, this.#entryId), text);
    if (this.state === 'conflict') return;
    this.state = 'waiting';
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.save(), AFTER_MS);
  }

  /** Stores what was typed so far. */
  async save(): Promise<void> {
    clearTimeout(this.#timer);
    if (this.#busy || this.state === 'saved' || this.state === 'conflict') return;
    if (!this.isThere && this.text.trim() === '') return;
    this.#busy = true;
    this.state = 'saving';
    const sent = this.text;
    try {
      if (this.isThere) await this.#change(sent);
      else await this.#add(sent);
      if (this.text === sent) {
        this.state = 'saved';
        localStorage.removeItem(draftKey(this.#caseId, this.#entryId));
      } else this.#again(AFTER_MS);
    } catch (cause) {
      this.#failed(cause);
    } finally {
      this.#busy = false;
    }
  }

  /** Writes this text over what somebody else wrote: they were both looked at. */
  async takeMine(): Promise<void> {
    this.state = 'waiting';
    await this.save();
  }
  takeTheirs(): void {
    this.text = this.theirs;
    this.state = 'saved';
    localStorage.removeItem(draftKey(this.#caseId, this.#entryId));
  }

  async #add(text: string): Promise<void> {
    const before = draftKey(this.#caseId, '');
    const { id } = await send<{ id: string }>('POST', `/api/cases/${this.#caseId}/entries`, {
      title: this.#title,
      text,
      pin: null
    });
    [this.#entryId, this.#version] = [id, 1];
    localStorage.removeItem(before);
    this.#onadded();
  }

  async #change(text: string): Promise<void> {
    const { version } = await send<{ version: number }>(
      'PATCH',
      `/api/cases/${this.#caseId}/entries/${this.#entryId}`,
      {
        version: this.#version,
        title: this.#title,
        text
      }
    );
    this.#version = version;
  }

  #failed(cause: unknown): void {
    const now = cause instanceof Refusal ? (cause.answer as { now?: Entry }).now : undefined;
    if (now) {
      this.theirs = now.text;
      this.#version = now.version;
      this.state = 'conflict';
    } else this.#again(RETRY_MS);
  }

  #again(ms: number): void {
    this.state = 'waiting';
    this.#timer = setTimeout(() => void this.save(), ms);
  }
}
