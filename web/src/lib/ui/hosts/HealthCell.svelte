<script lang="ts">
  import type { Health } from '$lib/server/queries/hosts/health';
  import { changeLook, TONES } from '$lib/ui/kit/change';
  import { healthWord, rateOf } from './health-words';

  /** Requests a minute, and whether they fare better or worse than in the time before. */
  let { health }: { health: Health | null } = $props();
  const look = $derived(health && changeLook(health.change, 'that of the same endpoints in the time before'));
</script>

{#if health && look}
  <span class="block num whitespace-nowrap">{rateOf(health.perMinute)}</span>
  <!-- The green of what is better is too pale on a chosen row. -->
  <span
    class="block text-[11px] whitespace-nowrap {look.tone === 'worse' ? TONES.worse : 'text-ink-2'}"
    title={look.words}>{healthWord(health)}{look.tone === 'same' ? '' : ` ${look.text}`}</span
  >
{:else}<span class="text-[11px] text-ink-3">–</span>{/if}
