<script lang="ts">
  import { apdexRating, apdexScore, SMALL_GROUP, type ApdexCounts } from '@tromix/core/stats/apdex';
  import { formatCount } from '@tromix/core/text/format';

  let { zones, tMs = 500 }: { zones: ApdexCounts; tMs?: number } = $props();
  const all = $derived(zones.satisfied + zones.tolerating + zones.frustrated);
  const score = $derived(apdexScore(zones));
  const words = $derived(
    `Apdex ${score.toFixed(2)} [${tMs / 1000} s], ${apdexRating(score)}${all < SMALL_GROUP ? `, only ${all} samples` : ''}: ${formatCount(zones.satisfied)} satisfied, ${formatCount(zones.tolerating)} tolerating, ${formatCount(zones.frustrated)} frustrated`
  );
</script>

<span class="flex h-2 w-12 overflow-hidden rounded-[2px]" role="img" aria-label={words} title={words}>
  <i style:flex-grow={zones.satisfied} class="bg-steer"></i>
  <i style:flex-grow={zones.tolerating} style:background="var(--acc-queue)"></i>
  <i style:flex-grow={zones.frustrated} class="bg-alarm"></i>
</span>
