<script lang="ts">
  import type { Snippet } from 'svelte';
  import Empty from './Empty.svelte';

  interface Props {
    /** What is opened: `dump`, `profile`. */
    what: string;
    /** Why it cannot be shown; '' while it may. */
    failed: string;
    /** What is being done, and the part that is done; null where nothing is known yet. */
    doing?: { doing: string; part: number } | null;
    onagain?: () => void;
    oncancel?: () => void;
    /** Ways on from what cannot be shown. */
    others: Snippet;
  }
  let { what, failed, doing = null, onagain, oncancel, others }: Props = $props();
</script>

{#if failed}
  <Empty title="This {what} cannot be shown">
    <p>{failed}</p>
    <p class="flex gap-2">
      {#if onagain}<button class="button button-solid" onclick={onagain}>Try again</button>{/if}
      {@render others()}
    </p>
  </Empty>
{:else}
  <div class="grid h-full place-items-center">
    <div class="w-80 text-center" role="status">
      <p class="mb-2 text-ink-2">
        {doing ? `Indexing the ${what}: ${doing.doing}…` : `Opening the ${what}…`}
      </p>
      <progress
        class="h-1.5 w-full"
        value={doing?.part ?? undefined}
        max="1"
        aria-label={doing ? 'Indexing' : 'Opening'}
      ></progress>
      {#if doing && oncancel}<button class="mt-3 button" onclick={oncancel}>Cancel</button>{/if}
    </div>
  </div>
{/if}
