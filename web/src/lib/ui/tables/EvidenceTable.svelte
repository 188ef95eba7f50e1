<script lang="ts">
  import { invalidate } from '$app/navigation';
  import DownloadIcon from '@lucide/svelte/icons/download';
  import TrashIcon from '@lucide/svelte/icons/trash';
  import { formatBytes, formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import { toast } from 'svelte-sonner';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import { dateTime } from '$lib/ui/kit/time';
  import { formatWeight } from '@tromix/core/profile/units';
  import { viewLink } from '$lib/ui/shell/links';
  import { evidencePath } from './evidence-path';

  let { items }: { items: EvidenceItem[] } = $props();
  const KINDS: Record<string, string> = {
    statements: 'statement log',
    threads: 'thread dump',
    heap: 'heap dump'
  };

  async function remove(item: EvidenceItem): Promise<void> {
    if (!confirm(`Remove ${item.name || item.kind}? Its file is deleted.`)) return;
    const response = await fetch(`/api/evidence/${item.id}`, { method: 'DELETE' });
    if (response.ok) toast.success('Removed.');
    else toast.error('It could not be removed.');
    await Promise.all([invalidate('tromix:evidence'), invalidate('tromix:data')]);
  }
  /** What a piece of evidence consists of. */
  const HOLDS: Record<string, string> = {
    profile: 'sample',
    statements: 'statement',
    threads: 'thread',
    heap: 'object'
  };
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
    {#each items as item (item.id)}
      <tr class="border-b border-grid whitespace-nowrap focus-within:bg-pen-soft hover:bg-pen-soft">
        <td class="px-2 py-1.5 num text-ink-2"
          >{item.startedAtUs === null ? 'not known' : dateTime(item.startedAtUs / 1000)}</td
        >
        <td class="max-w-36 truncate px-2 font-[560]"
          ><a
            href={item.kind === 'statements'
              ? viewLink('/calls', {}, { source: 'logs', log: item.id })
              : viewLink(evidencePath(item))}
            title={item.name}>{item.name || KINDS[item.kind] || item.kind}</a
          ></td
        >
        <td class="px-2"
          >{item.service || '–'}{#if item.pid}<span class="num text-ink-3">&nbsp;{item.pid}</span>{/if}</td
        >
        <td class="px-2 text-ink-2">{item.host || '–'}</td>
        <td class="px-2 num text-ink-2">{item.release || '–'}</td>
        <td class="px-2 text-right num">{item.durationNs > 0 ? formatDuration(item.durationNs) : '–'}</td>
        <td class="px-2 text-right num"
          >{item.heap
            ? formatBytes(item.heap.liveBytes)
            : item.kind === 'profile' || item.kind === 'statements'
              ? formatWeight(item.sum, item)
              : '–'}</td
        >
        <td class="px-2 text-right num"
          >{formatCount(item.samples)}<span class="ml-1 font-sans text-[11px] text-ink-3"
            >{plural(item.samples, HOLDS[item.kind] ?? 'part')
              .split(/\s/)
              .at(-1)}</span
          ></td
        >
        <td class="px-2 text-right num">{formatBytes(item.bytes)}</td>
        <td class="px-2 text-right">
          {#if item.kind !== 'statements'}
            <a
              class="button px-1.5 py-[3px]"
              href="/api/evidence/{item.id}/content"
              download={item.name || (item.kind === 'profile' ? 'profile.cpuprofile' : `${item.kind}.txt`)}
              aria-label="Save {item.name || item.kind}"
              title="Save"><DownloadIcon size={14} /></a
            >
          {/if}
          <button
            class="button px-1.5 py-[3px]"
            aria-label="Remove {item.name || item.kind}"
            title="Remove"
            onclick={() => void remove(item)}><TrashIcon size={14} /></button
          >
        </td>
      </tr>
    {/each}
  </tbody>
</table>
