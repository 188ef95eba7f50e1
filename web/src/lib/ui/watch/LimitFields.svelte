<script lang="ts">
  import { isComparable, OVER_MINUTES } from '@tromix/core/watch/condition';
  import { figureOf } from '@tromix/core/watch/figures';
  import type { Watched } from '@tromix/core/watch/watched';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';
  import { figuresLike, hasReleases, type WatchDraft } from './draft';

  /** Which figure is watched, and where it comes on and goes off. */
  interface Props {
    draft: WatchDraft;
    onchoose: (watched: Watched) => void;
    /** Somebody typed a limit. */
    ontype: () => void;
  }
  let { draft = $bindable(), onchoose, ontype }: Props = $props();
  const figure = $derived(figureOf(draft.watched));
  const figures = $derived(figuresLike(draft.watched));
</script>

<div class="flex flex-wrap items-end gap-x-3 gap-y-2">
  {#if figures.length > 1}
    <Labelled label="figure"
      ><select
        class="field"
        value={figures.findIndex((one) => JSON.stringify(one) === JSON.stringify(draft.watched))}
        onchange={({ currentTarget }) => onchoose(figures[Number(currentTarget.value)])}
        >{#each figures as one, i (i)}<option value={i}>{figureOf(one).title}</option>{/each}</select
      ></Labelled
    >
  {:else}
    <Labelled label="figure"><span class="field border-transparent px-0">{figure.title}</span></Labelled>
  {/if}
  {#if draft.watched.of === 'requests' && draft.watched.figure === 'apdex'}
    <NumberField label="T, ms" bind:value={draft.watched.apdexMs} min={1} max={600_000} />
  {/if}
  <Labelled label="over"
    ><select class="field" bind:value={draft.over}
      >{#each OVER_MINUTES as minutes (minutes)}<option value={minutes}>{minutes} min</option>{/each}</select
    ></Labelled
  >
  <Labelled label="comes on when it is"
    ><select class="field" bind:value={draft.by}
      ><option value="number">past a number</option>{#if isComparable(draft.watched)}<option value="day"
          >clearly worse than the day before</option
        ><option value="week">clearly worse than a week before</option
        >{/if}{#if hasReleases(draft.watched) && isComparable(draft.watched)}<option value="release"
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
        oninput={ontype}
      /></Labelled
    >
    <Labelled label="off at{figure.typed.unit ? `, ${figure.typed.unit}` : ''}"
      ><input
        class="w-28 field num"
        type="number"
        step="any"
        required
        bind:value={draft.off}
        oninput={ontype}
      /></Labelled
    >
  {:else}
    <NumberField label="on when worse by, %" bind:value={draft.worseOn} min={1} max={10_000} />
    <NumberField label="off when worse by at most, %" bind:value={draft.worseOff} min={1} max={10_000} />
  {/if}
  <NumberField label="minutes in a row" bind:value={draft.for} min={1} max={240} />
  <NumberField label="no data after, min" bind:value={draft.silentAfter} min={1} max={1440} />
</div>
