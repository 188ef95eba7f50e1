<script lang="ts">
  import GripIcon from '@lucide/svelte/icons/grip-vertical';
  import { dragHandle } from 'svelte-dnd-action';
  import { invalidate } from '$app/navigation';
  import type { Entry } from '@tromix/core/case/case';
  import type { PictureSize } from '$lib/server/queries/cases';
  import { send, sendAndSay } from '$lib/ui/frame/send';
  import MoreButton from '$lib/ui/kit/MoreButton.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import { shortTime } from '$lib/ui/kit/time';
  import { viewOf } from '$lib/views';
  import { toast } from 'svelte-sonner';
  import NoteEditor from './NoteEditor.svelte';
  import { NoteSaver } from './note-saver.svelte';
  import NoteText from './NoteText.svelte';

  interface Props {
    caseId: string;
    entry: Entry;
    /** How large its picture is; none for none. */
    picture: PictureSize | undefined;
    nowMs: number;
    /** Moves it among the others; null where it cannot go further. */
    onup: (() => void) | null;
    ondown: (() => void) | null;
    /** Opens the menu that all entries share. */
    onmenu: (event: MouseEvent, actions: Action[]) => void;
  }
  let { caseId, entry, picture, nowMs, onup, ondown, onmenu }: Props = $props();
  const pin = $derived(entry.pin);
  let saver = $state.raw<NoteSaver | null>(null);

  const edit = (): void => void (saver = new NoteSaver(caseId, entry));
  async function done(): Promise<void> {
    await saver?.save();
    if (saver?.state !== 'saved') return;
    saver = null;
    await invalidate('tromix:cases');
  }
  /** The title and the sentence while they are put in other words. */
  let words = $state<{ title: string; sentence: string } | null>(null);
  async function putInWords(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { version, text } = entry;
    try {
      await send('PATCH', `/api/cases/${caseId}/entries/${entry.id}`, {
        version,
        text,
        title: words!.title,
        ...(pin && { sentence: words!.sentence })
      });
      words = null;
    } catch (cause) {
      // What was typed stays: nothing of anybody is lost.
      toast.error((cause as Error).message);
    }
    await invalidate('tromix:cases');
  }
  async function remove(): Promise<void> {
    try {
      const { title, text, pin } = await send<Entry>('DELETE', `/api/cases/${caseId}/entries/${entry.id}`);
      toast('Taken out of the case.', {
        action: { label: 'Undo', onClick: () => void putBack({ title, text, pin }) }
      });
    } catch (cause) {
      toast.error((cause as Error).message);
    }
    await invalidate('tromix:cases');
  }
  async function putBack(removed: Pick<Entry, 'title' | 'text' | 'pin'>): Promise<void> {
    await sendAndSay('POST', `/api/cases/${caseId}/entries`, removed, '');
    await invalidate('tromix:cases');
  }
  const actions = $derived<Action[]>([
    ...(pin ? [{ name: 'Open the view', href: pin.address }] : []),
    { name: pin ? 'Write what it means' : 'Change the note', run: edit },
    {
      name: pin ? 'Put it in other words' : 'Change the title',
      run: () => (words = { title: entry.title, sentence: pin?.sentence ?? '' })
    },
    ...(onup ? [{ name: 'Move up', run: onup }] : []),
    ...(ondown ? [{ name: 'Move down', run: ondown }] : []),
    { name: 'Take it out', run: () => void remove() }
  ]);
  const from = $derived(pin ? (viewOf(pin.address.split('?')[0])?.name ?? 'the view') : '');
  const MAX_PICTURE_HEIGHT = 256;
  /** It has its room before it is there. */
  const room = $derived.by(() => {
    if (!picture || picture.width * picture.height === 0) return '';
    const width = Math.min(picture.width, (MAX_PICTURE_HEIGHT * picture.width) / picture.height);
    return `aspect-ratio: ${picture.width} / ${picture.height}; width: min(100%, ${width}px)`;
  });
</script>

<li
  class="grid grid-cols-[92px_minmax(0,1fr)] gap-x-6 [contain-intrinsic-size:auto_180px] [content-visibility:auto]"
  data-testid="entry"
>
  <span class="pt-0.5 text-right num text-ink-3">{shortTime(entry.atUs / 1000, nowMs)}</span>
  <div class="relative border-l-2 border-pen pb-5 pl-6">
    <span
      class="absolute top-1.5 -left-[6px] size-2.5 rounded-full border-2 border-pen bg-paper"
      aria-hidden="true"
    ></span>
    <div class="flex items-baseline gap-2">
      <span
        use:dragHandle
        class="-ml-1 flex-none cursor-grab self-center text-ink-3 hover:text-ink"
        aria-label="Move {entry.title || 'this entry'} by dragging, or by Enter and the arrow keys"
        ><GripIcon size={13} /></span
      >
      <h2 class="text-[14px] font-semibold">{entry.title || (pin ? pin.kind : 'Note')}</h2>
      <span class="ml-auto"><MoreButton onclick={(event) => onmenu(event, actions)} /></span>
    </div>
    {#if words}
      <form class="mt-1 grid max-w-3xl gap-1.5" onsubmit={putInWords}>
        <input class="field" aria-label="Title" maxlength="1000" bind:value={words.title} />
        {#if pin}<textarea
            class="h-20 field"
            aria-label="What it shows, in words"
            maxlength="20000"
            bind:value={words.sentence}></textarea>{/if}
        <span class="flex gap-1.5">
          <button class="button button-solid">Save</button>
          <button class="button" type="button" onclick={() => (words = null)}>Leave it</button>
        </span>
      </form>
    {:else if pin}<p class="max-w-3xl text-pretty text-ink-2">{pin.sentence}</p>{/if}
    {#if saver}
      <div class="mt-1 max-w-3xl">
        <NoteEditor
          value={saver.text}
          label="Text of {entry.title || 'the note'}"
          onchange={(text) => saver?.change(text)}
          onblur={() => void saver?.save()}
        />
        <p class="mt-1 flex items-center gap-2 text-[11px] text-ink-3">
          <button class="button" onclick={() => void done()}>Done</button>
          <span role="status"
            >{saver.state === 'saved'
              ? 'Saved.'
              : saver.state === 'saving'
                ? 'Saving…'
                : saver.state === 'waiting'
                  ? 'Not saved yet; kept in this browser.'
                  : ''}</span
          >
        </p>
        {#if saver.state === 'conflict'}
          <div class="mt-1 rounded-[3px] border border-alarm p-2" role="alert">
            <p class="mb-1">Somebody else changed this meanwhile. They wrote:</p>
            <pre class="mb-1 num text-[12px] whitespace-pre-wrap">{saver.theirs}</pre>
            <button class="button" onclick={() => void saver?.takeMine()}>Keep mine</button>
            <button
              class="button"
              onclick={() => {
                saver?.takeTheirs();
                void done();
              }}>Take theirs</button
            >
          </div>
        {/if}
      </div>
    {:else if entry.text}<div class="mt-0.5 max-w-3xl text-pretty"><NoteText source={entry.text} /></div>{/if}
    {#if pin}
      <div class="mt-1.5 max-w-4xl rounded-[3px] border border-rule bg-paper p-2.5">
        <div class="flex flex-wrap items-center gap-x-5 gap-y-1.5">
          {#if picture}<img
              class="max-h-64 max-w-full"
              style={room}
              src="/api/cases/{caseId}/entries/{entry.id}/picture"
              alt={pin.sentence}
              loading="lazy"
              decoding="async"
            />{/if}
          {#if pin.figures.length > 0}
            <dl class="flex flex-wrap gap-x-5 gap-y-1">
              {#each pin.figures as { name, value }, i (i)}
                <div>
                  <dt class="text-[11px] text-ink-3">{name}</dt>
                  <dd class="num">{value}</dd>
                </div>
              {/each}
            </dl>
          {/if}
          <a class="ml-auto flex-none text-[11px] text-ink-3 hover:underline" href={pin.address}
            >pinned from {from}<span class="sr-only">: open the view</span></a
          >
        </div>
        {#if pin.code}
          <p class="mt-1 num text-[11px] text-ink-3">
            {pin.code.file}{pin.code.release ? `, as of ${pin.code.release}` : ''}
          </p>
          <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
          <pre
            class="overflow-x-auto num text-[12px]"
            tabindex="0">{#each pin.code.lines as { number, text }, i (i)}<span
                class="block {number === pin.code.line ? 'bg-pen-soft font-semibold' : ''}"
                ><span class="mr-3 inline-block w-8 text-right text-ink-3">{number}</span>{text}
</span>{/each}</pre>
        {/if}
        {#if pin.verbatim}
          <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
          <pre
            class="mt-1 max-h-48 overflow-auto num text-[12px] whitespace-pre-wrap"
            tabindex="0">{pin.verbatim}</pre>{/if}
      </div>
    {/if}
  </div>
</li>
