<script lang="ts">
  import type { HostProcess } from '@tromix/core/findings/host-finding';
  import { corePercent } from './host-words';

  /** User time, system time and waiting for a core, of all cores of the host. */
  let { process, cores }: { process: HostProcess; cores: number } = $props();
  const parts = $derived([
    { key: 'user', value: process.userCores, color: 'var(--pen)' },
    { key: 'system', value: process.systemCores, color: 'var(--acc-database)' },
    { key: 'waits', value: process.waits, color: 'transparent' }
  ]);
  const label = $derived(
    parts.map(({ key, value }) => `${key} ${value === null ? 'not told' : corePercent(value)}`).join(', ')
  );
</script>

<span class="flex h-[11px] w-full overflow-hidden bg-grid" role="img" aria-label={label} title={label}>
  {#each parts as { key, value, color } (key)}
    <span
      class={key === 'waits' ? 'waits' : ''}
      style:width="{Math.min(100, ((value ?? 0) / cores) * 100)}%"
      style:background-color={color}
    ></span>
  {/each}
</span>

<style>
  /* Time in which nothing ran is hatched, as time nobody can explain is elsewhere. */
  .waits {
    background-image: repeating-linear-gradient(45deg, var(--ink-3) 0 1.5px, transparent 1.5px 4px);
  }
</style>
