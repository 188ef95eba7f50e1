<script lang="ts">
  /** A selected stretch with its two edges, in pixels of an SVG. */
  let { from, to, height, edgeTop }: { from: number; to: number; height: number; edgeTop: number } = $props();
</script>

<rect x={from} width={Math.max(1, to - from)} {height} fill="var(--pen)" opacity=".11" />
<path d="M{from} 0V{height}M{to} 0V{height}" stroke="var(--pen)" stroke-width="1.6" />
{#each [{ edge: 'from', at: from }, { edge: 'to', at: to }] as { edge, at } (edge)}
  <rect
    data-edge={edge}
    x={at - 4}
    y={edgeTop}
    width="8"
    height="18"
    rx="2"
    fill="var(--pen)"
    class="cursor-ew-resize"
  />
{/each}
