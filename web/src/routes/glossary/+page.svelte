<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { GLOSSARY } from '$lib/glossary';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import Page from '$lib/ui/shell/Page.svelte';

  const terms = Object.entries(GLOSSARY);
</script>

<Page>
  {#snippet scope()}<span>What the <b class="font-semibold text-ink">words</b> mean</span>{/snippet}
  {#snippet reading()}
    <p class="mb-2">
      Spans, traces, services, releases, profiles and dumps are called what the field calls them. These are
      the words that are ours, or that have one exact meaning here.
    </p>
    <h3 class="mt-3 mb-1 heading">Accounts of the ledger</h3>
    <ul>
      {#each Object.values(LOOKS) as { letter, name } (letter)}
        <li class="flex gap-2 border-b border-grid py-0.5"><span class="num">{letter}</span>{name}</li>
      {/each}
    </ul>
  {/snippet}
  <ScrollRegion label="Glossary">
    <article class="max-w-3xl px-6 py-5">
      <h1 class="mb-3 text-[18px]">Glossary</h1>
      <dl class="grid grid-cols-[150px_1fr]">
        {#each terms as [key, { word, meaning }] (key)}
          <dt id={key} class="border-b border-grid py-2 font-semibold">{word}</dt>
          <dd class="border-b border-grid py-2 text-pretty">{meaning}</dd>
        {/each}
      </dl>
    </article>
  </ScrollRegion>
</Page>
