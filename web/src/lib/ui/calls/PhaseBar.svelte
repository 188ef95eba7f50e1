<script lang="ts">
  import { formatDuration } from '@tromix/core/text/format';
  import type { PhasePart } from './phase-parts';

  /** Phases side by side, as wide as they are long. */
  let { parts, height }: { parts: readonly PhasePart[]; height: number } = $props();
  const sumNs = $derived(parts.reduce((sum, { ns }) => sum + ns, 0) || 1);
  const label = $derived(parts.map(({ name, ns }) => `${name} ${formatDuration(ns)}`).join(', '));
</script>

<span
  class="flex w-full overflow-hidden bg-grid"
  style:height="{height}px"
  role="img"
  aria-label={label}
  title={label}
>
  {#each parts as { name, ns, colour } (name)}<span
      style:width="{(ns / sumNs) * 100}%"
      style:background-color={colour}
    ></span>{/each}
</span>
