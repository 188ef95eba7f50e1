<script lang="ts">
  import { Dialog } from 'bits-ui';
  import { invalidate } from '$app/navigation';
  import { toast } from 'svelte-sonner';
  import { isComparable, type Condition } from '@tromix/core/watch/condition';
  import { figureOf } from '@tromix/core/watch/figures';
  import type { Watched } from '@tromix/core/watch/watched';
  import { limitWords, offWords, subjectWords, watchedWords } from '@tromix/core/watch/words';
  import type { DrawnPast } from '$lib/server/watch/past-run';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { railMarks } from '$lib/ui/rail/rail-marks.svelte';
  import { conditionFrom, draftFrom, draftOf, proposedLimits, watchFrom, type WatchDraft } from './draft';
  import ActionFields from './ActionFields.svelte';
  import LimitFields from './LimitFields.svelte';
  import { endOf } from './place-words';
  import PastRun from './PastRun.svelte';
  import { watching } from './offers.svelte';

  /** A watch before it is saved: its limits, and what it would have said. */

  const offer = $derived(watching.watch);
  let draft = $state<WatchDraft | null>(null);
  /** Whether somebody typed a limit: what is proposed does not overwrite it. */
  let isTyped = $state(false);
  let saving = $state(false);
  let refused = $state({ draft: '', why: '' });
  /** Why it was not saved, until it is changed. */
  const refusal = $derived(refused.draft === JSON.stringify(draft) ? refused.why : '');

  $effect(() => {
    if (!offer) return;
    draft = watching.changing ? draftFrom(watching.changing.watch) : draftOf(offer.watched);
    isTyped = watching.changing !== null;
  });

  const condition = $derived(draft && conditionFrom(draft));

  /** Without a limit yet the figure alone is asked for: a limit is proposed by what went on so far. */
  const asked = $derived.by((): Condition | null => {
    if (!draft) return null;
    if (condition) return condition;
    const { watched, side, over, silentAfter } = draft;
    return { watched, limit: { by: 'number', side, on: 0, off: 0 }, over, for: 1, silentAfter };
  });
  const past = resource(
    () => (offer && asked ? JSON.stringify({ condition: asked }) : null),
    (question, signal) => send<DrawnPast>('POST', '/api/watches/past', JSON.parse(question), signal),
    { keep: true, afterMs: 250 }
  );
  $effect(() => {
    if (!draft || isTyped || past.value === null || past.outOfDate || Number.isFinite(draft.on)) return;
    const proposed = proposedLimits(draft.watched, draft.side, past.value.values);
    if (proposed) Object.assign(draft, proposed);
  });
  // What it would have said stands on the rail, too, while it is looked at.
  $effect(() => {
    const firings = offer && condition && past.value ? past.value.firings : [];
    railMarks.stretches = firings.map(({ on, off }) => ({
      from: endOf(on),
      to: off === null ? Date.now() : endOf(off)
    }));
    return () => (railMarks.stretches = []);
  });

  const close = (): void => {
    watching.watch = null;
    watching.changing = null;
    draft = null;
  };
  /** Another figure has other limits. */
  function choose(watched: Watched): void {
    if (!draft) return;
    Object.assign(draft, {
      watched,
      side: figureOf(watched).worse,
      by: isComparable(watched) ? draft.by : 'number',
      on: NaN,
      off: NaN
    });
    isTyped = false;
  }
  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const watch = draft && watchFrom(draft);
    if (!watch) return;
    saving = true;
    try {
      const { changing } = watching;
      if (changing) await send('PUT', `/api/watches/${changing.id}`, { version: changing.version, watch });
      else {
        const { id } = await send<{ id: string }>('POST', '/api/watches', watch);
        toast.success('The watch is saved. It is judged every minute from now on.', {
          action: { label: 'Open', onClick: () => void location.assign(`/watches/${id}`) }
        });
      }
      close();
      await invalidate('tromix:watches');
    } catch (cause) {
      refused = { draft: JSON.stringify(draft), why: (cause as Error).message };
    }
    saving = false;
  }
</script>

<Dialog.Root open={offer !== null} onOpenChange={(open) => !open && close()}>
  <Dialog.Portal>
    <!-- The time rail stays in sight: it shows when the watch would have been on. -->
    <Dialog.Overlay
      class="fixed inset-0 z-40 bg-black/30 [clip-path:polygon(0_0,100%_0,100%_calc(100%-92px),168px_calc(100%-92px),168px_100%,0_100%)]"
    />
    <Dialog.Content
      class="fixed top-[3%] left-1/2 z-50 flex max-h-[calc(97vh-104px)] w-[760px] max-w-[96vw] -translate-x-1/2 flex-col overflow-y-auto rounded border border-rule bg-sheet p-4 shadow-lg"
    >
      {#if draft}
        <Dialog.Title class="text-[15px] font-semibold">
          {watching.changing ? 'Change the watch' : 'Watch'}
          <span class="font-normal text-ink-2">{subjectWords(draft.watched)}</span>
        </Dialog.Title>
        <Dialog.Description class="mb-2 text-ink-2">
          It is judged every minute. Before you save it, see what it would have said.
        </Dialog.Description>
        <form class="flex flex-col gap-2.5" onsubmit={save}>
          <LimitFields bind:draft onchoose={choose} ontype={() => (isTyped = true)} />
          <p class="min-h-[1lh] text-ink-2">
            {#if condition}
              On: {watchedWords(condition.watched)}
              {limitWords(condition)}. Off: {offWords(condition)}.
            {/if}
          </p>
          <PastRun {past} condition={asked} isWhole={condition !== null} />
          <ActionFields bind:draft called={condition ? watchedWords(condition.watched) : ''} />
          <!-- What is wrong with the condition is said where it is run. -->
          {#if refusal && refusal !== past.error}<p class="text-alarm" role="alert">{refusal}</p>{/if}
          <div class="flex justify-end gap-2">
            <button type="button" class="button" onclick={close}>Cancel</button>
            <button class="button button-solid" disabled={saving || condition === null}
              >{saving ? 'Saving…' : 'Save the watch'}</button
            >
          </div>
        </form>
      {/if}
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
