<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { figureOf } from '@tromix/core/watch/figures';
  import { watchName, type Watch } from '@tromix/core/watch/watch';
  import type { ListedFiring } from '$lib/server/watch/queries';
  import { sendAndSay } from '$lib/ui/frame/send';
  import { dateTime, shortTime } from '$lib/ui/kit/time';
  import { viewOfWatched } from '$lib/watched-place';
  import { durationColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { endOf } from './place-words';
  import { whoLooks } from './who-looks';

  /** The times for which watches were on. */
  interface Props {
    firings: ListedFiring[];
    watchOf: (firing: ListedFiring) => Watch | undefined;
    nowMs: number;
    title: string;
    /** Whether they are all of one watch: then it is not named in each row. */
    ofOne?: boolean;
  }
  let { firings, watchOf, nowMs, title, ofOne = false }: Props = $props();

  const lastedNs = ({ onMinute, offMinute }: ListedFiring): number =>
    offMinute === null ? (nowMs - endOf(onMinute)) * 1e6 : (offMinute - onMinute) * 60e9;
  const valueText = (firing: ListedFiring, value: number | null): string => {
    const watch = watchOf(firing);
    return value === null || !watch ? '–' : figureOf(watch.condition.watched).text(value);
  };
  const columns = $derived<Column<ListedFiring>[]>([
    {
      key: 'on',
      title: 'came on',
      width: 112,
      value: ({ onMinute }) => onMinute,
      text: ({ onMinute }) => shortTime(endOf(onMinute), nowMs)
    },
    ...(ofOne
      ? []
      : [
          {
            key: 'watch',
            title: 'watch',
            width: 170,
            grows: true,
            value: (row: ListedFiring) => {
              const watch = watchOf(row);
              return watch ? watchName(watch) : '';
            },
            text: (row: ListedFiring) => {
              const watch = watchOf(row);
              return watch ? watchName(watch) : '';
            }
          }
        ]),
    durationColumn('lasted', 'lasted', lastedNs, { width: 84 }),
    {
      key: 'worst',
      title: 'worst',
      width: 92,
      right: true,
      value: ({ worst }) => worst,
      text: (row) => valueText(row, row.worst)
    },
    {
      key: 'ended',
      title: 'ended',
      width: 160,
      grows: ofOne,
      value: ({ ended }) => ended,
      text: (row) => endedWords(row)
    },
    { key: 'case', title: 'case', width: 84, value: ({ caseId, taskState }) => caseId || taskState },
    { key: 'seen', title: 'looked at', width: 140, value: ({ seenAtUs }) => seenAtUs }
  ]);
  const ENDED: Record<ListedFiring['ended'], string> = {
    '': 'still on',
    off: 'went off',
    'no data': 'no data any more',
    changed: 'the watch was changed',
    clock: 'the clock was set back'
  };
  const endedWords = ({ ended, lateMinutes, silenced }: ListedFiring): string =>
    [ENDED[ended], lateMinutes > 1 ? 'judged late' : '', silenced === 1 ? 'silenced' : '']
      .filter(Boolean)
      .join(', ');

  async function look(firing: ListedFiring): Promise<void> {
    const by = whoLooks();
    if (await sendAndSay('PUT', `/api/watches/firings/${firing.id}`, { by }, ''))
      await invalidate('tromix:watches');
  }
  function linkOf(firing: ListedFiring): string {
    const watch = watchOf(firing);
    if (!watch) return `/watches/${firing.watchId}`;
    const { over, for: inRow, watched } = watch.condition;
    const from = endOf(firing.onMinute - over - inRow);
    return viewOfWatched(watched, { from, to: firing.offMinute === null ? nowMs : endOf(firing.offMinute) });
  }
</script>

<DataTable
  label={title}
  rows={firings}
  {columns}
  keyOf={({ id }) => id}
  hrefOf={linkOf}
  linkName={(row) => dateTime(endOf(row.onMinute), nowMs)}
  actionsOf={(row) => [
    { name: 'Open the watch', href: `/watches/${row.watchId}` },
    ...(row.caseId ? [{ name: 'Open the case', href: `/cases/${row.caseId}` }] : []),
    ...(row.seenAtUs === null ? [{ name: 'Looked at it', run: () => void look(row) }] : [])
  ]}
  sort="-on"
  param="said"
  file="watches-said"
  short
  empty="Nothing was said yet."
>
  {#snippet head()}<h2 class="text-[13px] text-ink">{title}</h2>{/snippet}
  {#snippet cell(row, column)}
    {#if column.key === 'case'}
      {#if row.caseId}<a class="relative z-1 underline" href="/cases/{row.caseId}">open</a>
      {:else if row.taskState === 'waiting' || row.taskState === 'doing'}<span class="text-ink-3"
          >being made…</span
        >
      {:else if row.taskMessage}<span class="truncate text-ink-3" title={row.taskMessage}
          >{row.taskMessage}</span
        >
      {:else}<span class="text-ink-3">–</span>{/if}
    {:else if column.key === 'seen'}
      {#if row.seenAtUs === null}
        <button
          class="relative z-1 button px-1.5 py-0"
          onclick={(event) => {
            event.preventDefault();
            event.stopPropagation();
            void look(row);
          }}>Looked at it</button
        >
      {:else}<span class="truncate" title={dateTime(row.seenAtUs / 1000, nowMs)}
          >{row.seenBy ? `${row.seenBy}, ` : ''}{shortTime(row.seenAtUs / 1000, nowMs)}</span
        >{/if}
    {/if}
  {/snippet}
</DataTable>
