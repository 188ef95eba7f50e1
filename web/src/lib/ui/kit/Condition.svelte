<script lang="ts">
  import XIcon from '@lucide/svelte/icons/x';

  /** A condition that is set, and can be taken away. */
  let { text, ondrop }: { text: string; ondrop: () => void } = $props();
</script>

<span class="inline-flex max-w-80 items-center gap-1 rounded-[3px] border border-rule bg-sheet px-1.5 py-px">
  <span class="truncate num" title={text}>{text}</span>
  <button
    class="flex-none text-ink-3 hover:text-ink"
    aria-label="Without the condition {text}"
    onclick={ondrop}><XIcon size={12} /></button
  >
</span>
