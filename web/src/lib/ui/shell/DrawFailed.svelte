<script lang="ts">
  import { afterNavigate } from '$app/navigation';
  import Empty from '$lib/ui/kit/Empty.svelte';

  let { error, reset }: { error: unknown; reset: () => void } = $props();
  afterNavigate(({ type }) => {
    if (type !== 'enter') reset();
  });
</script>

<div class="h-full" role="alert">
  <Empty title="This view could not be drawn">
    <p>A fault in Tromix, not in what you sent: all that was recorded is stored as before.</p>
    <p><code class="num break-words">{error instanceof Error ? error.message : String(error)}</code></p>
    <p class="flex gap-2">
      <button class="button button-solid" onclick={reset}>Draw it again</button>
      <a class="button" href="/">To the overview</a>
    </p>
  </Empty>
</div>
