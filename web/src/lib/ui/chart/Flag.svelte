<script lang="ts">
  /** The sign at a release: a flag over the line that a chart draws at that moment. */
  let { left, top = 12, label }: { left: number; top?: number; label: string } = $props();
</script>

{#if Number.isFinite(left)}
  <span
    class="pointer-events-none absolute bg-ink-2 py-px pr-2.5 pl-1 font-mono text-[10px] text-paper [clip-path:polygon(0_0,100%_0,calc(100%-5px)_50%,100%_100%,0_100%)]"
    style:left="{left}px"
    style:top="{top}px">{label}</span
  >
{/if}
