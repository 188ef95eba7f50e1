<script lang="ts">
  /** What is sought, asked for a moment after the last letter. */
  let { label, value, onsearch }: { label: string; value: string; onsearch: (text: string) => void } =
    $props();
  const QUIET_MS = 250;
  let timer: ReturnType<typeof setTimeout> | undefined;
  function search(text: string, afterMs: number): void {
    clearTimeout(timer);
    timer = setTimeout(() => onsearch(text), afterMs);
  }
</script>

<input
  type="search"
  class="w-48 field"
  placeholder={label}
  aria-label={label}
  {value}
  oninput={({ currentTarget }) => search(currentTarget.value, QUIET_MS)}
  onkeydown={({ key, currentTarget }) => key === 'Enter' && search(currentTarget.value, 0)}
/>
