<script lang="ts">
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import { MAX_TRACE_LOGS } from '$lib/log-choices';
  import type { StoredLog } from '$lib/server/queries/request-page';
  import Level from '$lib/ui/logs/Level.svelte';
  import { LEVELS, type LogState } from '$lib/ui/logs/log-state';
  import SearchField from '$lib/ui/logs/SearchField.svelte';
  import VirtualList from '$lib/ui/tables/VirtualList.svelte';
  import { soughtLogs, timedLogs } from './request-log';
  import type { RequestModel } from './request-model';

  /** The log records of a request below its timeline, in order of time: each leads to the span it was written in. */
  let {
    model,
    logs,
    selected,
    text,
    level,
    onselect,
    onsearch,
    onlevel
  }: {
    model: RequestModel;
    logs: StoredLog[];
    /** The row that is chosen in the timeline. */
    selected: string;
    onselect: (spanId: string) => void;
    onsearch: (text: string) => void;
    onlevel: (level: LogState['level']) => void;
  } & Pick<LogState, 'text' | 'level'> = $props();

  const all = $derived(timedLogs(model, logs));
  // As the address says, until something else is sought here.
  let sought = $derived(text);
  let least = $derived(level);
  const rows = $derived(soughtLogs(all, { text: sought, level: least }));
</script>

<section class="flex h-44 flex-none flex-col border-t border-rule bg-sheet" aria-label="Log">
  <div class="flex items-baseline gap-3 px-4 pt-1.5 pb-1 text-ink-2">
    <h2 class="heading">Log</h2>
    <span
      >{rows.length < all.length ? `${formatCount(rows.length)} of ` : ''}{formatCount(
        all.length
      )}{all.length >= MAX_TRACE_LOGS ? ', the first of perhaps more' : ''}</span
    >
    <SearchField
      label="Search the log"
      value={sought}
      onsearch={(next) => {
        sought = next;
        onsearch(next);
      }}
    />
    <label class="flex items-baseline gap-1"
      >severity
      <select
        class="field"
        value={least}
        onchange={({ currentTarget }) => {
          least = currentTarget.value as LogState['level'];
          onlevel(least);
        }}
        >{#each LEVELS as one (one)}<option value={one}
            >{one === 'all' || one === 'fatal' ? one : `${one} or graver`}</option
          >{/each}</select
      ></label
    >
  </div>
  {#if rows.length === 0}<p class="px-4 py-2 text-ink-3" role="status">No record is like that.</p>
  {:else}
    <VirtualList
      label="Log records"
      columns="grid grid-cols-[84px_48px_100px_minmax(0,1fr)] items-center gap-2"
      {rows}
      rowHeight={22}
      idOf={({ key }) => `log-${key}`}
      isSelected={({ spanId }) => spanId !== '' && spanId === selected}
      onselect={({ spanId }) => spanId && onselect(spanId)}
    >
      {#snippet head()}
        <span class="column text-right">after</span><span class="column">severity</span><span class="column"
          >service</span
        ><span class="column">what it says</span>
      {/snippet}
      {#snippet row(record)}
        <span class="text-right text-ink-3">{formatDuration(record.at)}</span>
        <Level severity={record.severity} />
        <span class="truncate text-ink-2">{record.service || '–'}</span>
        <span class="truncate" title={record.body}>{record.body}</span>
      {/snippet}
    </VirtualList>
  {/if}
</section>
