<script lang="ts">
  import type { Warning } from '@tromix/core/formats/evidence-error';
  import { formatCount } from '@tromix/core/text/format';

  /** What was odd about something that was read, each with how often. */
  let { warnings }: { warnings: readonly Warning[] } = $props();
</script>

{#each warnings as { code, count, message } (code)}
  <p class="mt-1 text-[11px] text-ink-3">{formatCount(count)}×: {message}</p>
{/each}
