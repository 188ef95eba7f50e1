<script lang="ts">
  /** The visible way to what a right-click offers. The keyboard has the menu key on the row itself. */
  let { onclick }: { onclick: (event: MouseEvent) => void } = $props();
</script>

<button
  class="relative z-1 grid h-5 w-[22px] place-items-center rounded-[3px] text-ink-3 hover:bg-steer-soft hover:text-ink"
  tabindex="-1"
  aria-label="More"
  aria-haspopup="menu"
  {onclick}>…</button
>
