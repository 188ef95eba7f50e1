<script lang="ts">
  import { goto, invalidate } from '$app/navigation';
  import { CASE_STATES, CLOSED_STATES, type Case, type Entry } from '@tromix/core/case/case';
  import { checklistOf } from '@tromix/core/case/checklist';
  import { formatBytes, plural } from '@tromix/core/text/format';
  import { dragHandleZone } from 'svelte-dnd-action';
  import { toast } from 'svelte-sonner';
  import { caseReading, requestOf } from '$lib/ui/cases/case-reading';
  import EntryCard from '$lib/ui/cases/EntryCard.svelte';
  import NoteEditor from '$lib/ui/cases/NoteEditor.svelte';
  import { NoteSaver } from '$lib/ui/cases/note-saver.svelte';
  import { briefing, chooseCase, pinnable, pinning, type BriefSource } from '$lib/ui/cases/pins.svelte';
  import { Refusal, send, sendAndSay } from '$lib/ui/frame/send';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { afterPaint } from '$lib/ui/kit/after-paint';
  import { copyText } from '$lib/ui/kit/actions';
  import Confirm from '$lib/ui/kit/Confirm.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import { pairLink, viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const one = $derived(data.one);
  const needs = $derived(checklistOf(one));
  /** What is asked before the case goes; '' while nothing is. */
  let removing = $state('');
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  let note = $state.raw<NoteSaver | null>(null);
  const slow = $derived(requestOf(one, 'slow request'));
  const normal = $derived(requestOf(one, 'normal request'));
  const isCurrent = $derived(pinning.caseId === one.id);
  const reload = (): Promise<void> => invalidate('tromix:cases');

  type Changed = Partial<Pick<Case, 'question' | 'state' | 'told'>>;
  let changing = Promise.resolve();
  /** One change after another: each is made from what the one before it left. */
  const change = (next: Changed): void => void (changing = changing.then(() => changeNow(next)));

  async function changeNow(next: Changed): Promise<void> {
    const { version, state, ...rest } = one;
    try {
      await send('PATCH', `/api/cases/${one.id}`, {
        version,
        question: next.question ?? rest.question,
        state: next.state ?? state,
        told: next.told ?? rest.told
      });
    } catch (cause) {
      toast.error((cause as Error).message);
      if (!(cause instanceof Refusal)) return;
    }
    await reload();
  }
  /** What a window holds is drawn at once, the rest so many at a time, each once the ones before are painted. */
  const AT_ONCE = 20;
  let most = $state(AT_ONCE);
  $effect(() => (one.entries.length > most ? afterPaint(() => (most += AT_ONCE)) : undefined));
  /** The entries as they lie while one is dragged. */
  let ordered = $derived(one.entries.slice(0, most));
  const move = (from: number, to: number): Promise<void> => {
    const next = [...one.entries];
    next.splice(to, 0, ...next.splice(from, 1));
    return reorder(next);
  };
  async function reorder(next: Entry[]): Promise<void> {
    ordered = next;
    await sendAndSay('PUT', `/api/cases/${one.id}/order`, { ids: next.map(({ id }) => id) }, '');
    await reload();
  }
  async function remove(): Promise<void> {
    if (await sendAndSay('DELETE', `/api/cases/${one.id}`, undefined, 'The case was removed.'))
      await goto('/cases');
  }
  /** A note that was begun before a reload goes on. */
  $effect(() => {
    if (note === null && localStorage.getItem(`tromix-note-${one.id}-`) !== null) startNote();
  });
  const startNote = (): void => void (note = new NoteSaver(one.id, null));
  async function endNote(): Promise<void> {
    await note?.save();
    if (note && (note.state === 'saved' || !note.text.trim())) {
      note = null;
      await reload();
    }
  }
  /** How it will be read by somebody who does not have this tool. */
  const brief = $derived<BriefSource>({
    title: one.question,
    ask: (length, as) => fetch(`/api/cases/${one.id}/brief?as=${as}&length=${length}`)
  });
  pinnable(() => ({ title: one.question, brief }));
</script>

<Page>
  {#snippet scope()}
    <span
      >Case <b class="font-semibold text-ink">{one.question}</b>, {CLOSED_STATES.includes(one.state)
        ? 'closed: what it stands on is kept no longer'
        : 'kept until it is closed'}</span
    >
  {/snippet}
  {#snippet reading()}
    {#each caseReading(one) as sentence, i (i)}<Sentence text={sentence} />{/each}
    <p class="mb-2">
      {#if data.kept.namedTraces + data.kept.namedFiles === 0}It stands on no evidence yet.
      {:else}
        {CLOSED_STATES.includes(one.state) ? 'Still here' : 'Kept'}: {plural(data.kept.traces, 'trace')}{data
          .kept.traces < data.kept.namedTraces
          ? ` of ${data.kept.namedTraces}`
          : ''}, {plural(data.kept.files, 'file')}{data.kept.files < data.kept.namedFiles
          ? ` of ${data.kept.namedFiles}`
          : ''}, about {formatBytes(data.kept.bytes)}.
      {/if}
    </p>
    <h3 class="mt-3 mb-1 heading">What a case needs</h3>
    <ul>
      {#each needs as { what, done } (what)}
        <li class={done ? '' : 'text-ink-3'}>
          <span aria-hidden="true">{done ? '✓' : '–'}</span>
          {what}<span class="sr-only">{done ? ', there' : ', missing'}</span>
        </li>
      {/each}
    </ul>
    <label class="mt-3 block text-[11px] text-ink-3"
      >Who was told
      <input
        class="mt-0.5 block w-full field"
        maxlength="1000"
        value={one.told}
        onchange={(event) => change({ told: event.currentTarget.value })}
      /></label
    >
    <p class="mt-3 flex flex-wrap gap-1.5">
      {#if slow}<a
          class="button button-solid"
          href={viewLink('/load', {}, { repeat: slow })}
          title="Send them again, before a fix and after">Repeat its steps</a
        >{/if}
      {#if slow && normal}<a class="button" href={pairLink('requests', { before: normal, after: slow })}
          >Slow beside normal</a
        >{/if}
      {#if !isCurrent}<button class="button" onclick={() => chooseCase(one.id)}>Pin to this case</button>
      {:else}<span class="text-ink-2">Pins go to this case (<kbd class="num">p</kbd>).</span>{/if}
      <button
        class="button"
        onclick={() =>
          (removing = 'Its notes and pins go; the evidence stays as long as anything else keeps it.')}
        >Remove the case</button
      >
    </p>
  {/snippet}
  <header class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-2.5">
    <input
      class="min-w-40 flex-1 rounded-[3px] border border-transparent bg-transparent px-1 text-[16px] font-semibold hover:border-rule focus:border-steer"
      aria-label="Question"
      maxlength="300"
      value={one.question}
      onchange={(event) => change({ question: event.currentTarget.value })}
    />
    <span class="text-ink-2"
      >opened {shortTime(one.createdAtUs / 1000, data.nowMs)} ·
      <span class={one.state === 'proved' ? 'text-ok' : 'text-ink-3'} aria-hidden="true">●</span></span
    >
    <select
      class="field py-0.5"
      aria-label="State"
      value={one.state}
      onchange={(event) => change({ state: event.currentTarget.value as Case['state'] })}
    >
      {#each CASE_STATES as state (state)}<option>{state}</option>{/each}
    </select>
    <button class="button" onclick={() => (briefing.of = brief)}>Brief</button>
    <a
      class="button"
      href="/api/cases/{one.id}/bundle"
      download
      title="The case with all it stands on, as a zip of open files">Bundle</a
    >
    <button class="button" onclick={() => copyText(location.href)}>Link</button>
  </header>
  <ScrollRegion label="Case">
    <h1 class="sr-only">{one.question}</h1>
    <ol
      class="px-4 pt-4"
      use:dragHandleZone={{ items: ordered, type: 'entry', flipDurationMs: 150, dropTargetStyle: {} }}
      onconsider={({ detail }) => (ordered = detail.items)}
      onfinalize={({ detail }) => void reorder(detail.items)}
    >
      {#each ordered as entry, i (entry.id)}
        <EntryCard
          caseId={one.id}
          {entry}
          picture={data.pictured[entry.id]}
          nowMs={data.nowMs}
          onup={i > 0 ? () => void move(i, i - 1) : null}
          ondown={i < one.entries.length - 1 ? () => void move(i, i + 1) : null}
          onmenu={(event, actions) => void menu?.open(event, actions)}
        />
      {/each}
    </ol>
    <ol class="px-4">
      <li class="grid grid-cols-[92px_minmax(0,1fr)] gap-x-6 pb-6">
        <span class="pt-1 text-right text-ink-3">now</span>
        <div class="max-w-4xl border-l-2 border-pen pl-6">
          {#if note}
            <NoteEditor
              value={note.text}
              label="New note"
              placeholder="Markdown. It is saved as you type."
              onchange={(text) => note?.change(text)}
              onblur={() => void note?.save()}
            />
            <p class="mt-1 flex items-center gap-2 text-[11px] text-ink-3">
              <button class="button" onclick={() => void endNote()}>Done</button>
              <span role="status"
                >{note.state === 'saved'
                  ? note.isThere
                    ? 'Saved.'
                    : ''
                  : note.state === 'saving'
                    ? 'Saving…'
                    : 'Not saved yet; kept in this browser.'}</span
              >
            </p>
          {:else}
            <button
              class="w-full rounded-[3px] border border-dashed border-rule px-3 py-2 text-left text-ink-3 hover:border-steer"
              onclick={startNote}
              >Write a note, or pin something from any view with <kbd class="num">p</kbd></button
            >
          {/if}
        </div>
      </li>
    </ol>
  </ScrollRegion>
</Page>
<ActionMenu bind:this={menu} />
<Confirm
  bind:question={removing}
  title="Remove this case?"
  action="Remove it"
  onconfirm={() => void remove()}
/>
