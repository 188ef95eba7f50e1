<script lang="ts">
  import type { AskedBy } from '$lib/server/queries/request-page';
  import { viewLink } from '$lib/ui/shell/links';
  import { formatVital } from './vital-words';

  /** The page loads that asked for a request: the way up from the server to who waits. */
  let { loads }: { loads: readonly AskedBy[] } = $props();
</script>

{#each loads as { traceId, page, lcp } (traceId)}
  <p class="my-2" data-testid="asked-by">
    The page <a class="underline decoration-dotted" href={viewLink(`/pages/loads/${traceId}`)}>{page}</a>
    asked for it{lcp === null ? '' : `; its largest paint came at ${formatVital('lcp', lcp)}`}.
  </p>
{/each}
