<script lang="ts">
  import { sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import { plural } from '@tromix/core/text/format';
  import type { OldBatch, SetAsideItem } from '$lib/server/queries/set-aside';
  import { dateTime } from '$lib/ui/kit/time';
  import { keepOldTraces } from './old-traces';

  let { items, old, keepDays }: { items: SetAsideItem[]; old: OldBatch[]; keepDays: number } = $props();
  const KINDS: Record<SetAsideItem['kind'], string> = {
    trace: 'trace',
    batch: 'batch',
    file: 'file',
    dump: 'heap dump',
    recording: 'recording'
  };

  async function retry({ kind, id }: SetAsideItem): Promise<void> {
    const done = kind === 'trace' ? 'Trying it again now.' : 'Removed from the list. Send it again to try.';
    await sendAndSay('DELETE', '/api/set-aside', { kind, id }, done);
    await invalidate('tromix:evidence');
  }
</script>

{#if items.length > 0}
  <section class="border-t border-rule bg-sheet px-4 py-2" aria-label="Set aside">
    <h3 class="mb-1 heading">Set aside</h3>
    <p class="mb-1 text-ink-2">
      These could not be worked on, and are not tried again by themselves. Each says why.
    </p>
    <ul class="max-h-48 overflow-y-auto">
      {#each items as item (`${item.kind} ${item.id}`)}
        <li class="border-t border-grid py-1">
          <div class="flex items-center gap-2">
            <span class="flex-none text-ink-3">{KINDS[item.kind]}</span>
            <span class="min-w-0 flex-1 truncate num" title={item.name}>{item.name}</span>
            <span class="flex-none num text-ink-3">{dateTime(item.atUs / 1000)}</span>
            {#if item.kind === 'trace'}
              <a class="button flex-none" href="/api/requests/{item.id}/0/otlp" download>Export</a>
            {/if}
            <button class="button flex-none" onclick={() => void retry(item)}>Try again</button>
          </div>
          <p class="text-ink-2">{item.reason}</p>
        </li>
      {/each}
    </ul>
  </section>
{/if}
{#if old.length > 0}
  <section class="border-t border-rule bg-sheet px-4 py-2" aria-label="Old traces">
    <h3 class="mb-1 heading">Traces that came old</h3>
    <p class="mb-1 text-ink-2">
      They are older than the {keepDays} days that requests are kept, and go soon unless you keep them.
    </p>
    <ul class="max-h-32 overflow-y-auto">
      {#each old as batch (batch.source)}
        <li class="flex items-baseline gap-3 border-t border-grid py-1">
          <span class="w-24 flex-none">{plural(batch.traces, 'trace')}</span>
          <span class="flex-1 num text-ink-3">received {dateTime(batch.receivedAtUs / 1000)}</span>
          {#if batch.keep}<span class="text-ink-2">kept</span>{:else}
            <button class="button" onclick={() => void keepOldTraces(batch.source)}>Keep them</button>
          {/if}
        </li>
      {/each}
    </ul>
  </section>
{/if}
