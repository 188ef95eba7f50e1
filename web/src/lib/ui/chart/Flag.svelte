<script lang="ts">
  /** The sign at a release: a flag over the line that a chart draws at that moment; `before` it where there is no room behind. */
  let {
    left,
    top = 12,
    label,
    about = '',
    before = false
  }: { left: number; top?: number; label: string; about?: string; before?: boolean } = $props();
</script>

{#if Number.isFinite(left)}
  <span
    class="pointer-events-none absolute bg-ink-2 py-px font-mono text-[10px] whitespace-nowrap text-paper {before
      ? '-translate-x-full pr-1 pl-2.5 [clip-path:polygon(0_0,100%_0,100%_100%,0_100%,5px_50%)]'
      : 'pr-2.5 pl-1 [clip-path:polygon(0_0,100%_0,calc(100%-5px)_50%,100%_100%,0_100%)]'}"
    style:left="{left}px"
    style:top="{top}px"
    title={about || undefined}>{label}</span
  >
{/if}
