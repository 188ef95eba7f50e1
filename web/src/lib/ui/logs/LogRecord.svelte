<script lang="ts">
  import { readException } from '@tromix/core/failures/exception-text';
  import { loggedException } from '@tromix/core/failures/logged-failures';
  import type { Attributes } from '@tromix/core/trace/span';
  import type { ListedLog } from '$lib/server/queries/logs';
  import ExceptionParts from '$lib/ui/failures/ExceptionParts.svelte';
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import { dateTime, exactTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Level from './Level.svelte';

  /** One log record, whole. */
  let { record }: { record: ListedLog & { attributes: Attributes } } = $props();
  const MINUTE_MS = 60_000;
  const atMs = $derived(record.atUs / 1000);
  const thrown = $derived(record.attributes.has('exception.type') ? loggedException(record) : null);
  const facts = $derived<[string, string][]>([
    ['at', `${dateTime(atMs)} · ${exactTime(atMs)}`],
    ['service', record.service || 'not told'],
    ['host', record.host || 'not told'],
    ['release', record.release || 'not told'],
    ...(record.pid > 0 ? ([['process', String(record.pid)]] as [string, string][]) : [])
  ]);
  const told = $derived([...record.attributes].filter(([name]) => !name.startsWith('exception.')));
  const around = $derived({ from: Math.floor(atMs - MINUTE_MS), to: Math.ceil(atMs + MINUTE_MS) });
</script>

<section aria-label="Record">
  <h3 class="mt-2 mb-1 heading">One record · <Level severity={record.severity} /></h3>
  <p class="mb-2 num break-words whitespace-pre-wrap">{record.body}</p>
  {#if thrown}<div class="mb-2"><ExceptionParts read={readException(thrown.stack, thrown)} /></div>{/if}
  <FactTable {facts} />
  {#if told.length > 0}
    <dl class="mt-2 num">
      {#each told as [name, value] (name)}
        <dt class="text-ink-3">{name}</dt>
        <dd class="mb-1 pl-2 break-words">{typeof value === 'object' ? JSON.stringify(value) : value}</dd>
      {/each}
    </dl>
  {/if}
  <p class="mt-2 flex flex-wrap gap-1.5">
    {#if record.requestSpanId}<a
        class="button"
        href={viewLink(
          `/requests/${record.traceId}/${record.requestSpanId}`,
          {},
          record.spanId ? { row: record.spanId } : {}
        )}>{record.spanId ? 'The span it was written in' : 'Its request'}</a
      >{/if}
    {#if record.service}<a
        class="button"
        href={viewLink('/logs', { service: record.service, host: record.host, ...around })}
        >This process, a minute around it</a
      >{/if}
  </p>
  {#if !record.traceId}<p class="mt-2 text-[11px] text-ink-3">It names no trace.</p>
  {:else if !record.requestSpanId}<p class="mt-2 text-[11px] text-ink-3">
      Its trace has no request here: its spans did not come, or are not kept.
    </p>{/if}
</section>
