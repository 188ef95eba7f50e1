<script lang="ts">
  import type { OddHost } from '$lib/server/queries/hosts/odd-host';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { alsoOdd, oddSentence } from '$lib/ui/hosts/host-words';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { viewLink } from '$lib/ui/shell/links';

  /** What the counters say of a host whose requests are slower than those on the others. */
  let { host }: { host: string } = $props();
  const ONLY_TIME = { service: '', endpoint: '', host: '', release: '' };
  const asked = resource(
    () => viewLink('/api/counters/odd', ONLY_TIME, { one: host }),
    (url, signal) => send<OddHost>('GET', url, undefined, signal)
  );
  const odd = $derived(asked.value && oddSentence(asked.value.strips));
</script>

{#if asked.error}<p class="mt-1 text-ink-3">{asked.error}</p>
{:else if asked.value}
  <div class="mt-1" data-testid="odd-by-counters">
    {#if odd}
      <Sentence text={['By the counters too, ', ...odd]} />
      <span class="text-ink-2">{alsoOdd(asked.value.strips).join(' ')}</span>
    {:else if !asked.value.tells}
      <span class="text-ink-3">It tells no counters that could say why.</span>
    {:else if !asked.value.othersTell}
      <span class="text-ink-3">No other host tells counters to hold its own against.</span>
    {:else}
      <span class="text-ink-2">By its counters it does not stand clear of the others.</span>
    {/if}
    <a class="underline decoration-dotted" href={viewLink('/hosts', ONLY_TIME, { one: host })}>Its counters</a
    >
  </div>
{/if}
