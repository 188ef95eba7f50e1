<script lang="ts">
  import { page } from '$app/state';
  import Empty from '$lib/ui/kit/Empty.svelte';
</script>

<svelte:head><title>{page.status} · Tromix</title></svelte:head>

<main class="h-full">
  <Empty title={page.status === 404 ? 'Not found' : 'This did not work'}>
    <p>{page.error?.message}</p>
    <p class="flex gap-2">
      <a class="button button-solid" href="/">To the overview</a>
      <button class="button" onclick={() => location.reload()}>Try again</button>
    </p>
  </Empty>
</main>
