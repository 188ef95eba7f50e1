<script lang="ts">
  import { Dialog } from 'bits-ui';
  import { invalidate } from '$app/navigation';
  import { toast } from 'svelte-sonner';
  import { isComparable, OVER_MINUTES, type Condition } from '@tromix/core/watch/condition';
  import { figureOf } from '@tromix/core/watch/figures';
  import { SEVERITIES } from '@tromix/core/watch/watch';
  import { limitWords, offWords, subjectWords, watchedWords } from '@tromix/core/watch/words';
  import type { DrawnPast } from '$lib/server/watch/past-run';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';
  import { railMarks } from '$lib/ui/rail/rail-marks.svelte';
  import {
    conditionFrom,
    draftFrom,
    draftOf,
    figuresLike,
    proposedLimits,
    watchFrom,
    type WatchDraft
  } from './draft';
  import { endOf } from './place-words';
  import PastRun from './PastRun.svelte';
  import { watching } from './offers.svelte';

  /** A watch before it is saved: its limits, and what it would have said. */

  const offer = $derived(watching.watch);
  let draft = $state<WatchDraft | null>(null);
  /** Whether somebody typed a limit: what is proposed does not overwrite it. */
  let isTyped = $state(false);
  let saving = $state(false);

  $effect(() => {
    if (!offer) return;
    draft = watching.changing ? draftFrom(watching.changing.watch) : draftOf(offer.watched);
    isTyped = watching.changing !== null;
  });

  const figure = $derived(draft && figureOf(draft.watched));
  const figures = $derived(draft ? figuresLike(draft.watched) : []);
  const condition = $derived(draft && conditionFrom(draft));
  const canBeRelease = $derived(
    draft !== null &&
      'place' in draft.watched &&
      draft.watched.of !== 'counter' &&
      draft.watched.place.service !== '' &&
      draft.watched.place.release === ''
  );

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
  function choose(next: number): void {
    if (!draft) return;
    Object.assign(draft, {
      watched: figures[next],
      side: figureOf(figures[next]).worse,
      by: isComparable(figures[next]) ? draft.by : 'number',
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
      toast.error((cause as Error).message);
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
      {#if draft && figure}
        <Dialog.Title class="text-[15px] font-semibold">
          {watching.changing ? 'Change the watch' : 'Watch'}
          <span class="font-normal text-ink-2">{subjectWords(draft.watched)}</span>
        </Dialog.Title>
        <Dialog.Description class="mb-2 text-ink-2">
          It is judged every minute. Before you save it, see what it would have said.
        </Dialog.Description>
        <form class="flex flex-col gap-2.5" onsubmit={save}>
          <div class="flex flex-wrap items-end gap-x-3 gap-y-2">
            {#if figures.length > 1}
              <Labelled label="figure"
                ><select
                  class="field"
                  value={figures.findIndex((one) => JSON.stringify(one) === JSON.stringify(draft?.watched))}
                  onchange={({ currentTarget }) => choose(Number(currentTarget.value))}
                  >{#each figures as one, i (i)}<option value={i}>{figureOf(one).title}</option
                    >{/each}</select
                ></Labelled
              >
            {:else}
              <Labelled label="figure"
                ><span class="field border-transparent px-0">{figure.title}</span></Labelled
              >
            {/if}
            {#if draft.watched.of === 'requests' && draft.watched.figure === 'apdex'}
              <NumberField label="T, ms" bind:value={draft.watched.apdexMs} min={1} max={600_000} />
            {/if}
            <Labelled label="over"
              ><select class="field" bind:value={draft.over}
                >{#each OVER_MINUTES as minutes (minutes)}<option value={minutes}>{minutes} min</option
                  >{/each}</select
              ></Labelled
            >
            <Labelled label="comes on when it is"
              ><select class="field" bind:value={draft.by}
                ><option value="number">past a number</option>{#if isComparable(draft.watched)}<option
                    value="day">clearly worse than the day before</option
                  ><option value="week">clearly worse than a week before</option
                  >{/if}{#if canBeRelease && isComparable(draft.watched)}<option value="release"
                    >clearly worse than the release before</option
                  >{/if}</select
              ></Labelled
            >
          </div>
          <div class="flex flex-wrap items-end gap-x-3 gap-y-2">
            {#if draft.by === 'number'}
              <Labelled label="side"
                ><select class="field" bind:value={draft.side}
                  ><option value="above">above</option><option value="below">below</option></select
                ></Labelled
              >
              <Labelled label="on at{figure.typed.unit ? `, ${figure.typed.unit}` : ''}"
                ><input
                  class="w-28 field num"
                  type="number"
                  step="any"
                  required
                  bind:value={draft.on}
                  oninput={() => (isTyped = true)}
                /></Labelled
              >
              <Labelled label="off at{figure.typed.unit ? `, ${figure.typed.unit}` : ''}"
                ><input
                  class="w-28 field num"
                  type="number"
                  step="any"
                  required
                  bind:value={draft.off}
                  oninput={() => (isTyped = true)}
                /></Labelled
              >
            {:else}
              <NumberField label="on when worse by, %" bind:value={draft.worseOn} min={1} max={10_000} />
              <NumberField
                label="off when worse by at most, %"
                bind:value={draft.worseOff}
                min={1}
                max={10_000}
              />
            {/if}
            <NumberField label="minutes in a row" bind:value={draft.for} min={1} max={240} />
            <NumberField label="no data after, min" bind:value={draft.silentAfter} min={1} max={1440} />
          </div>
          {#if condition}
            <p class="text-ink-2">
              On: {watchedWords(condition.watched)}
              {limitWords(condition)}. Off: {offWords(condition)}.
            </p>
          {/if}
          <PastRun {past} condition={asked} isWhole={condition !== null} />
          <div class="flex flex-wrap items-end gap-x-3 gap-y-2 border-t border-rule pt-2.5">
            <Labelled label="name" grows
              ><input
                class="w-full min-w-40 field"
                maxlength="200"
                placeholder={condition ? watchedWords(condition.watched) : ''}
                bind:value={draft.name}
              /></Labelled
            >
            <Labelled label="severity"
              ><select class="field" bind:value={draft.severity}
                >{#each SEVERITIES as severity (severity)}<option>{severity}</option>{/each}</select
              ></Labelled
            >
            <Labelled label="owner"
              ><input class="w-36 field" maxlength="200" bind:value={draft.owner} /></Labelled
            >
          </div>
          <div class="flex flex-wrap items-end gap-x-4 gap-y-2">
            <label class="flex items-center gap-1.5 pb-1"
              ><input type="checkbox" bind:checked={draft.opensCase} />open a case when it comes on</label
            >
            <label class="flex items-center gap-1.5 pb-1"
              ><input type="checkbox" bind:checked={draft.tellsNoData} />tell when there is no data</label
            >
            <Labelled label="record"
              ><select class="field" bind:value={draft.record}
                ><option value="nothing">nothing</option><option value="cpu">CPU samples</option><option
                  value="allocation">allocations</option
                ><option value="threads">a thread dump</option><option value="heap">a heap dump</option
                ></select
              ></Labelled
            >
            {#if draft.record !== 'nothing'}
              {#if draft.record === 'cpu' || draft.record === 'allocation'}
                <NumberField label="for, seconds" bind:value={draft.seconds} min={1} max={600} />
              {/if}
              <Labelled label="of the process at"
                ><input
                  class="w-40 field"
                  placeholder="that of the service"
                  bind:value={draft.address}
                /></Labelled
              >
            {/if}
          </div>
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
