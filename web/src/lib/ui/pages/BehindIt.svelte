<script lang="ts">
  import { formatDuration, plural } from '@tromix/core/text/format';
  import type { RequestBehind } from '$lib/server/queries/pages/requests-behind';
  import RequestButton from './RequestButton.svelte';

  /** Requests of servers behind what a page fetched, the longest first. */
  let { requests, asked }: { requests: readonly RequestBehind[]; asked: number } = $props();
  const MOST = 4;
  const longest = $derived(requests.toSorted((a, b) => b.durationNs - a.durationNs));
</script>

<h3 class="mt-3 mb-1.5 heading">
  {requests.length > 1 ? `The ${requests.length} requests behind it` : 'The request behind it'}
</h3>
{#each longest.slice(0, MOST) as request (`${request.traceId} ${request.spanId}`)}
  <p class="mb-1">
    {#if request.failed}<b class="text-alarm">✕ failed</b>{/if}
    <code class="num">{request.endpoint}</code> of <b class="font-[620]">{request.service}</b>, {formatDuration(
      request.durationNs
    )}, {plural(request.calls, 'call')}{request.findings > 0
      ? `, ${plural(request.findings, 'finding')}`
      : ''}
  </p>
  <p class="mb-2"><RequestButton {request} /></p>
{/each}
{#if longest.length > MOST}<p class="text-[11px] text-ink-3">
    And {longest.length - MOST} shorter ones.
  </p>{/if}
{#if requests.length === 0}<p class="text-ink-3">
    {asked > 0
      ? 'The server names it, but it is not kept here.'
      : 'The server does not say which request it was (Server-Timing with traceparent).'}
  </p>{/if}
