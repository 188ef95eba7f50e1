<script lang="ts">
  import type { RequestBehind } from '$lib/server/queries/pages/requests-behind';
  import { viewLink } from '$lib/ui/shell/links';

  /** The way to the server's request. */
  let { request }: { request: RequestBehind } = $props();
</script>

<a
  class="button"
  href={viewLink(`/requests/${request.traceId}/${request.spanId}`, {
    service: request.service,
    endpoint: request.endpoint
  })}>Open the request</a
>
