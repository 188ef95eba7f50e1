<script lang="ts">
  import { sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import DownloadIcon from '@lucide/svelte/icons/download';
  import TrashIcon from '@lucide/svelte/icons/trash';
  import { formatBytes, formatCount, formatDuration, nounFor } from '@tromix/core/text/format';
  import type { EvidenceKind } from '@tromix/core/evidence/kinds';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import { dateTime } from '$lib/ui/kit/time';
  import { kindView, type KindView } from '$lib/evidence/kinds';
  import { evidenceLink } from '$lib/ui/shell/links';

  let { items }: { items: EvidenceItem[] } = $props();
  /** Figures of each, as its kind shows them. */
  const rows = $derived(
    items.map((item) => {
      const view: KindView<EvidenceKind> = kindView(item.kind);
      return { item, view, holds: view.holds(item), weight: view.weight(item) };
    })
  );

  async function remove(item: EvidenceItem): Promise<void> {
    if (!confirm(`Remove ${item.name || kindView(item.kind).label}? Its file is deleted.`)) return;
    await sendAndSay('DELETE', `/api/evidence/${item.id}`, undefined, 'Removed.');
    await Promise.all([invalidate('tromix:evidence'), invalidate('tromix:data')]);
  }
</script>

<table class="w-full border-collapse">
  <thead class="sticky top-0 z-10 bg-sheet">
    <tr class="border-b border-rule">
      <th class="column">recorded</th>
      <th class="column">what</th>
      <th class="column">of</th>
      <th class="column">host</th>
      <th class="column">release</th>
      <th class="column text-right">length</th>
      <th class="column text-right" title="CPU or bytes of a profile, time of the statements of a log"
        >weight</th
      >
      <th
        class="column text-right"
        title="Samples of a profile, statements of a log, threads or objects of a dump">holds</th
      >
      <th class="column text-right">size</th>
      <th class="column"><span class="sr-only">acts</span></th>
    </tr>
  </thead>
  <tbody>
    {#each rows as { item, view, holds, weight } (item.id)}
      <tr class="border-b border-grid whitespace-nowrap focus-within:bg-pen-soft hover:bg-pen-soft">
        <td class="px-2 py-1.5 num text-ink-2"
          >{item.startedAtUs === null ? 'not known' : dateTime(item.startedAtUs / 1000)}</td
        >
        <td class="max-w-36 truncate px-2 font-[560]"
          ><a href={evidenceLink(item)} title={item.name}>{item.name || view.label}</a></td
        >
        <td class="px-2"
          >{item.service || '–'}{#if item.pid}<span class="num text-ink-3">&nbsp;{item.pid}</span>{/if}</td
        >
        <td class="px-2 text-ink-2">{item.host || '–'}</td>
        <td class="px-2 num text-ink-2">{item.release || '–'}</td>
        <td class="px-2 text-right num">{item.durationNs > 0 ? formatDuration(item.durationNs) : '–'}</td>
        <td class="px-2 text-right num">{weight || '–'}</td>
        <td class="px-2 text-right num"
          >{#if holds}{formatCount(holds.count)}<span class="ml-1 font-sans text-[11px] text-ink-3"
              >{nounFor(holds.count, holds.noun)}</span
            >{:else}–{/if}</td
        >
        <td class="px-2 text-right num">{formatBytes(item.bytes)}</td>
        <td class="px-2 text-right">
          {#if view.savedAs !== null}
            <a
              class="button px-1.5 py-[3px]"
              href="/api/evidence/{item.id}/content"
              download={item.name || view.savedAs}
              aria-label="Save {item.name || view.label}"
              title="Save"><DownloadIcon size={14} /></a
            >
          {/if}
          <button
            class="button px-1.5 py-[3px]"
            aria-label="Remove {item.name || view.label}"
            title="Remove"
            onclick={() => void remove(item)}><TrashIcon size={14} /></button
          >
        </td>
      </tr>
    {/each}
  </tbody>
</table>
