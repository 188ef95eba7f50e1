<script lang="ts">
  import { sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import type { Snippet } from 'svelte';
  import DownloadIcon from '@lucide/svelte/icons/download';
  import TrashIcon from '@lucide/svelte/icons/trash';
  import { formatCount, nounFor } from '@tromix/core/text/format';
  import type { EvidenceKind } from '@tromix/core/evidence/kinds';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import { dateTime } from '$lib/ui/kit/time';
  import { kindView, type KindView } from '$lib/evidence/kinds';
  import { evidenceLink } from '$lib/ui/shell/links';
  import { bytesColumn, durationColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';

  interface Props {
    label: string;
    items: EvidenceItem[];
    /** How many there are in all, where not all are listed. */
    total?: number;
    head?: Snippet;
  }
  let { label, items, total, head }: Props = $props();

  const viewOf = (item: EvidenceItem): KindView<EvidenceKind> => kindView(item.kind);
  const nameOf = (item: EvidenceItem): string => item.name || viewOf(item).label;
  const COLUMNS: Column<EvidenceItem>[] = [
    { key: 'what', title: 'what', width: 150, grows: true, wants: 210, value: nameOf },
    {
      key: 'recorded',
      title: 'recorded',
      width: 104,
      value: ({ startedAtUs }) => startedAtUs,
      text: ({ startedAtUs }) => (startedAtUs === null ? 'not known' : dateTime(startedAtUs / 1000))
    },
    { key: 'of', title: 'of', width: 112, value: ({ service }) => service },
    textColumn('host', 'host', ({ host }) => host, { width: 80, gives: 3 }),
    textColumn('release', 'release', ({ release }) => release, { width: 64, gives: 1 }),
    durationColumn('length', 'length', ({ durationNs }) => (durationNs > 0 ? durationNs : null), {
      width: 76,
      gives: 2
    }),
    {
      key: 'weight',
      title: 'weight',
      about: 'CPU or bytes of a profile, time of the statements of a log',
      width: 108,
      right: true,
      text: (item) => viewOf(item).weight(item) || '–'
    },
    {
      key: 'holds',
      title: 'holds',
      about: 'Samples of a profile, statements of a log, threads or objects of a dump',
      width: 126,
      right: true,
      value: (item) => viewOf(item).holds(item)?.count ?? null
    },
    bytesColumn('size', 'size', ({ bytes }) => bytes, { width: 78 }),
    { key: 'acts', title: '', width: 70, right: true }
  ];

  async function remove(item: EvidenceItem): Promise<void> {
    if (!confirm(`Remove ${nameOf(item)}? Its file is deleted.`)) return;
    await sendAndSay('DELETE', `/api/evidence/${item.id}`, undefined, 'Removed.');
    await Promise.all([invalidate('tromix:evidence'), invalidate('tromix:data')]);
  }
</script>

<DataTable
  {label}
  rows={items}
  columns={COLUMNS}
  keyOf={({ id }) => id}
  hrefOf={(item) => evidenceLink(item)}
  sort=""
  file="evidence"
  {total}
  {head}
>
  {#snippet cell(item, { key })}
    {@const view = viewOf(item)}
    {#if key === 'what'}<span class="font-[560]" title={item.name}>{nameOf(item)}</span>
    {:else if key === 'of'}{item.service || '–'}{#if item.pid}<span class="num text-ink-3"
          >&nbsp;{item.pid}</span
        >{/if}
    {:else if key === 'holds'}
      {@const holds = view.holds(item)}
      {#if holds}{formatCount(holds.count)}<span class="ml-1 font-sans text-[11px] text-ink-3"
          >{nounFor(holds.count, holds.noun)}</span
        >{:else}–{/if}
    {:else}
      <span class="relative z-1 inline-flex gap-1">
        {#if view.savedAs !== null}
          <a
            class="button px-1 py-0.5"
            href="/api/evidence/{item.id}/content"
            download={item.name || view.savedAs}
            aria-label="Save {nameOf(item)}"
            title="Save"><DownloadIcon size={13} /></a
          >
        {/if}
        <button
          class="button px-1 py-0.5"
          aria-label="Remove {nameOf(item)}"
          title="Remove"
          onclick={() => void remove(item)}><TrashIcon size={13} /></button
        >
      </span>
    {/if}
  {/snippet}
</DataTable>
