<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import type { Neighbour } from '@tromix/core/profile/neighbours';
  import { formatShare } from '@tromix/core/text/format';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
  import { placeOf } from './profile-reading';
  import { formatWeight } from '@tromix/core/profile/units';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    /** Goes on to another function. */
    onopen: (frame: number) => void;
  }
  let { opened, view, onopen }: Props = $props();

  const middle = $derived(view.neighbours);
  const total = $derived(middle?.total ?? 0);
  const MAX = 60;
</script>

{#snippet column(title: string, list: Neighbour[], side: 'left' | 'right')}
  <section class="flex min-h-0 min-w-0 flex-1 flex-col" aria-label={title}>
    <h2 class="border-b border-rule px-3 py-1.5 heading">{title}</h2>
    <ScrollRegion label="{title}, list">
      {#each list.slice(0, MAX) as { frame, weight } (frame)}
        {@const known = opened.frames[frame]}
        <button
          class="relative block w-full border-b border-grid px-3 py-1.5 text-left hover:bg-steer-soft disabled:cursor-default"
          disabled={known.kind === 'root'}
          onclick={() => onopen(frame)}
        >
          <i
            class="absolute inset-y-[2px] bg-pen-soft {side === 'left' ? 'right-0' : 'left-0'}"
            style:width="{Math.min(1, weight / Math.max(1, total)) * 100}%"
          ></i>
          <span class="relative flex gap-3 num">
            <span
              class="min-w-0 flex-1 truncate {known.kind === 'app' ? 'font-semibold' : ''}"
              title={known.name}
              >{known.kind === 'root' ? 'nothing: it is where the stack begins' : known.name}</span
            >
            <span class="flex-none">{formatWeight(weight, opened)}</span>
            <span class="w-14 flex-none text-right">{formatShare(weight / Math.max(1, total))}</span>
          </span>
          <span class="relative block truncate text-[11px] text-ink-3">{placeOf(known)}</span>
        </button>
      {:else}
        <p class="p-3 text-ink-3">
          {side === 'left' ? 'No callers in the samples.' : 'No callees in the samples.'}
        </p>
      {/each}
      {#if list.length > MAX}<p class="p-3 text-ink-3">{list.length - MAX} lighter ones are left out.</p>{/if}
    </ScrollRegion>
  </section>
{/snippet}

{#if middle}
  {@const known = opened.frames[middle.frame]}
  <div class="flex min-h-0 flex-1 bg-sheet" data-testid="neighbours">
    {@render column('Called by', middle.callers, 'left')}
    <div class="flex w-60 flex-none flex-col justify-center border-x border-rule px-4 text-center">
      <p class="num text-[13px] font-semibold break-words">{known.name}</p>
      <p class="mb-2 num text-[11px] break-words text-ink-3">{placeOf(known)}</p>
      <p class="num">
        total {formatWeight(middle.total, opened)}, {formatShare(middle.total / (view.sum || 1))}
      </p>
      <p class="num">
        self {formatWeight(middle.self, opened)}, {formatShare(middle.self / (view.sum || 1))}
      </p>
      <p class="mt-2 text-[11px] text-ink-3">Shares left and right are of its total.</p>
    </div>
    {@render column('Calls', middle.callees, 'right')}
  </div>
{:else}
  <div class="grid min-h-0 flex-1 place-items-center bg-sheet text-ink-3">
    <p>Choose a function in the table below: its callers and callees are shown here.</p>
  </div>
{/if}
