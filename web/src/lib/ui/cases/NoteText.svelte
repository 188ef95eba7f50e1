<script lang="ts">
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { rendered as rendering } from './when-needed';

  /** Markdown as it is read. Markup in it is text, nothing in it runs, and nothing is fetched. */
  let { source }: { source: string } = $props();
  const rendered = resource(() => source, rendering, { keep: true });
</script>

{#if rendered.value}
  <!-- eslint-disable-next-line svelte/no-at-html-tags -- rendered without HTML of its own, and sanitised: see render-note.ts -->
  <div class="note">{@html rendered.value}</div>
{:else}
  <!-- As high as it will be, in most cases: what stands below does not move. -->
  <div class="note">
    {#each source.split(/\n{2,}/) as paragraph, i (i)}<p class="whitespace-pre-wrap">{paragraph}</p>{/each}
  </div>
{/if}

<style>
  .note :global(p),
  .note :global(ul),
  .note :global(ol),
  .note :global(pre),
  .note :global(blockquote) {
    margin-bottom: 0.4rem;
  }
  .note :global(ul) {
    list-style: disc;
    padding-left: 1.2rem;
  }
  .note :global(ol) {
    list-style: decimal;
    padding-left: 1.2rem;
  }
  .note :global(h1),
  .note :global(h2),
  .note :global(h3) {
    font-size: 13px;
    margin: 0.4rem 0 0.2rem;
  }
  .note :global(code) {
    font-family: var(--font-mono);
    font-size: 12px;
  }
  .note :global(pre) {
    overflow-x: auto;
    border: 1px solid var(--rule);
    background: var(--paper);
    padding: 0.3rem 0.6rem;
  }
  .note :global(a) {
    color: var(--steer);
    text-decoration: underline;
  }
  .note :global(blockquote) {
    border-left: 2px solid var(--rule);
    padding-left: 0.6rem;
  }
</style>
