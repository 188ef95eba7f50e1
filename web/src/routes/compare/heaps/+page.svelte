<script lang="ts">
  import PairSelects from '$lib/ui/compare/PairSelects.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
</script>

<Page>
  {#snippet scope()}
    <PairSelects items={data.dumps} chosen={{ before: data.before, after: data.after }} noun="heap dump" />
  {/snippet}
  {#snippet reading()}
    <p>
      Choose two heap dumps, the earlier first: what grew between them is shown in the view of the later one.
    </p>
  {/snippet}
  <h1 class="sr-only">Two heap dumps</h1>
  <Empty title={data.dumps.length < 2 ? 'Two heap dumps are needed' : 'Choose what to compare'}>
    <p>Take one when the process has warmed up and one after it has grown, and choose both above.</p>
    <a class="button button-solid" href="/heap">Go to the heap dumps</a>
  </Empty>
</Page>
