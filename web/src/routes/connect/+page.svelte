<script lang="ts">
  import { page } from '$app/state';
  import { formatCount, plural } from '@tromix/core/text/format';
  import { waysToSend } from '$lib/ui/connect/ways';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { copyText } from '$lib/ui/kit/actions';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { exactTime, shortTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import { countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { WhoSends } from '$lib/server/queries/who-sends';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  type Sender = WhoSends['senders'][number];

  const EVERY_MS = 2000;
  let turn = $state(0);
  const asked = resource(
    () => ({ turn }),
    (_, signal) => send<WhoSends>('GET', '/api/senders', undefined, signal),
    { keep: true }
  );
  $effect(() => {
    if (asked.asking) return;
    const timer = setTimeout(() => turn++, EVERY_MS);
    return () => clearTimeout(timer);
  });
  const who = $derived(asked.value ?? data.who);
  const ways = $derived(waysToSend(page.url.origin, page.data.sendsToken === true));

  const keyOf = ({ service, host, release, pid }: Sender): string =>
    JSON.stringify([service, host, release, pid]);
  /** Who sent before this page was opened: whoever else sends is new. */
  // svelte-ignore state_referenced_locally
  const before = new Set(data.who.senders.map(keyOf));
  const arrived = $derived(who.senders.filter((sender) => !before.has(keyOf(sender))));
  /** A sender that sent within the last minute or so. */
  const RECENT_MS = 90_000;
  const now = $derived(Math.max(data.nowMs, ...who.senders.map(({ lastMs }) => lastMs)));
  const active = $derived(who.senders.filter(({ lastMs }) => now - lastMs < RECENT_MS));
  const openLink = ({ service, host, release }: Sender): string =>
    viewLink('/requests', {
      service,
      host,
      release,
      endpoint: '',
      run: undefined,
      from: undefined,
      to: undefined,
      last: '30m'
    });
  const columns: Column<Sender>[] = [
    textColumn('service', 'service', ({ service }) => service, { width: 130, grows: true }),
    textColumn('host', 'host', ({ host }) => host, { width: 110 }),
    textColumn('release', 'release', ({ release }) => release, { width: 110 }),
    textColumn('pid', 'pid', ({ pid }) => (pid > 0 ? String(pid) : ''), { width: 70, right: true }),
    {
      key: 'last',
      title: 'last batch',
      width: 96,
      right: true,
      value: ({ lastMs }) => lastMs,
      text: ({ lastMs }) => shortTime(lastMs)
    },
    countColumn('batch', 'spans in it', ({ lastBatch }) => lastBatch, { width: 80 }),
    countColumn('minute', 'spans per minute', ({ perMinute }) => perMinute, {
      width: 116,
      about: 'In the last whole minute; in its first minute so far'
    }),
    countColumn('spans', 'spans in all', ({ spans }) => spans, { width: 92 })
  ];
</script>

<Page>
  {#snippet scope()}<span
      >Looking at <b class="font-semibold text-ink">what sends here</b>, since {shortTime(who.sinceMs)}, when
      this server started</span
    >{/snippet}
  {#snippet reading()}
    {#if who.senders.length === 0}
      <p role="status">Nothing has sent a span yet. This page sees the first batch arrive.</p>
    {:else}
      <p>
        {plural(active.length, 'process', 'processes')} sent within the last minute and a half; {formatCount(
          who.senders.length
        )} since the server started.
      </p>
    {/if}
    {#if who.turnedAway.length > 0}
      <h3 class="mt-3 mb-1 heading">Turned away</h3>
      {#each who.turnedAway as { reason, status, count, lastMs }, i (i)}
        <p class="mb-1.5">
          <b class="num font-semibold text-alarm">{formatCount(count)} ×</b>
          {reason}
          <span class="text-ink-3"
            >{status === 0 ? 'gRPC' : `HTTP ${status}`}, last at {exactTime(lastMs)}</span
          >
        </p>
      {/each}
    {:else}<p class="mt-2 text-ink-2">Nothing was turned away.</p>{/if}
    {#if asked.error}<p class="mt-2 text-alarm" role="alert">{asked.error}</p>{/if}
  {/snippet}
  <ScrollRegion label="Connect" class="bg-sheet">
    <div role="status">
      {#each arrived as sender (keyOf(sender))}
        <p class="flex items-baseline gap-2 border-b border-rule bg-steer-soft px-4 py-2">
          <b class="font-semibold">{sender.service}</b>
          <span>{sender.release} on {sender.host} sends: {plural(sender.spans, 'span')} so far.</span>
          <a class="button button-solid" href={openLink(sender)}>Show its requests</a>
        </p>
      {/each}
    </div>
    <section
      class="grid grid-cols-[repeat(auto-fit,minmax(280px,1fr))] gap-x-6 gap-y-4 border-b border-rule px-4 py-3"
      aria-label="How to send"
    >
      {#each ways as { name, lines, about } (name)}
        <div class="flex min-w-0 flex-col">
          <h2 class="mb-1 text-[13px]">{name}</h2>
          <pre
            class="mb-1.5 rounded-[3px] border border-rule bg-paper p-2 num text-[12px] break-all whitespace-pre-wrap text-ink select-all">{lines.join(
              '\n'
            )}</pre>
          <p class="mb-1.5 [overflow-wrap:anywhere] text-ink-2">{about}</p>
          <button
            class="mt-auto button self-start"
            aria-label="Copy what {name} needs"
            onclick={() => copyText(lines.join('\n'))}>Copy</button
          >
        </div>
      {/each}
    </section>
    <DataTable
      label="Senders"
      rows={who.senders}
      {columns}
      {keyOf}
      hrefOf={openLink}
      sort="-last"
      file="senders"
      short
      empty="Nothing has sent a span since the server started. Use one of the lines above."
    >
      {#snippet head()}<h1 class="text-[13px]">What sends</h1>{/snippet}
    </DataTable>
    <section class="border-t border-rule px-4 py-3" aria-label="Assistants">
      <h2 class="mb-1 text-[13px]">Assistants</h2>
      {#if who.assistants === null}
        <p class="text-ink-2">
          None may ask: started with <code class="num">TROMIX_MCP=1</code>, this server answers questions by
          the Model Context Protocol, read-only.
        </p>
      {:else}
        <p class="mb-1 text-ink-2">
          Ask at <code class="num">{page.url.origin}/mcp</code>, or start
          <code class="num">tromix mcp --server {page.url.origin}</code>.
          {#if who.assistants.length === 0}None has asked since the server started.{/if}
        </p>
        {#each who.assistants as { client, version, calls, refused, lastMs, tools } (client + version)}
          <p>
            <b class="font-semibold">{client}</b>
            {version}: {plural(calls, 'question')}{refused > 0
              ? `, ${formatCount(refused)} of them not answered as asked`
              : ''}, last at {exactTime(lastMs)}
            <span class="text-ink-3"
              >({tools.map(([name, count]) => `${name} ${formatCount(count)}`).join(', ')})</span
            >
          </p>
        {/each}
      {/if}
    </section>
  </ScrollRegion>
</Page>
