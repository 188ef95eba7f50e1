<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { plural } from '@tromix/core/text/format';
  import { SEVERITIES, type Severity } from '@tromix/core/watch/watch';
  import type { ListedDelivery, ListedHook } from '$lib/server/watch/queries';
  import { send, sendAndSay } from '$lib/ui/frame/send';
  import { copyText } from '$lib/ui/kit/actions';
  import Confirm from '$lib/ui/kit/Confirm.svelte';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import { countColumn, rareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { toast } from 'svelte-sonner';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  let form = $state<{ name: string; url: string; least: Severity }>({ name: '', url: '', least: 'warning' });
  /** The key of a webhook that was just added: it is shown this once. */
  let fresh = $state<{ name: string; secret: string } | null>(null);
  let removing = $state<ListedHook | null>(null);
  let question = $state('');

  const names = $derived(new Map(data.hooks.map(({ id, name }) => [id, name])));
  const failing = $derived(data.deliveries.filter(({ state }) => state === 'failed').length);

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    try {
      const { secret } = await send<{ secret: string }>('POST', '/api/hooks', form);
      fresh = { name: form.name, secret };
      form = { name: '', url: '', least: 'warning' };
      await invalidate('tromix:watches');
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
  async function remove(): Promise<void> {
    question = '';
    if (
      removing &&
      (await sendAndSay('DELETE', `/api/hooks/${removing.id}`, undefined, 'The webhook was removed.'))
    )
      await invalidate('tromix:watches');
  }
  async function test({ id }: ListedHook): Promise<void> {
    if (await sendAndSay('POST', `/api/hooks/${id}`, undefined, 'A test is on its way: it is listed below.'))
      await invalidate('tromix:watches');
  }
  const hookColumns: Column<ListedHook>[] = [
    textColumn('name', 'webhook', ({ name }) => name, { width: 130 }),
    textColumn('url', 'address', ({ url }) => url, { width: 220, grows: true }),
    textColumn('least', 'is told from', ({ least }) => least, { width: 100 }),
    countColumn('sent', 'sent', ({ sent }) => sent, { width: 60 }),
    rareColumn('waiting', 'waiting', ({ waiting }) => waiting),
    rareColumn('failed', 'failed', ({ failed }) => failed),
    { key: 'do', title: '', width: 150 }
  ];
  const SIGNS = { waiting: '…', sent: '✓', failed: '✗' } as const;
  const stateWords = ({ state, nextAtUs, tries }: ListedDelivery): string =>
    state === 'waiting' && tries > 0 ? `again at ${dateTime(nextAtUs / 1000, data.readMs)}` : state;
  const deliveryColumns: Column<ListedDelivery>[] = [
    textColumn('at', 'at', ({ createdAtUs }) => dateTime(createdAtUs / 1000, data.readMs), { width: 120 }),
    textColumn('hook', 'webhook', ({ hookId }) => names.get(hookId) ?? 'removed', { width: 110 }),
    textColumn('kind', 'tells', ({ kind }) => kind, { width: 70 }),
    { key: 'state', title: 'state', width: 150, value: ({ state }) => state },
    countColumn('tries', 'tries', ({ tries }) => tries, { width: 56 }),
    textColumn('said', 'what it says', (row) => row.message || sentenceIn(row), { width: 240, grows: true })
  ];
  const sentenceIn = ({ body }: ListedDelivery): string =>
    (JSON.parse(body) as { data: { sentence: string } }).data.sentence;
</script>

<Page>
  {#snippet scope()}<span
      ><a class="underline" href="/watches">Watches</a>: <b class="font-semibold text-ink">webhooks</b> and what
      was sent to them</span
    >{/snippet}
  {#snippet reading()}
    <p class="mb-2">
      {data.hooks.length === 0
        ? 'Nobody is told by webhook.'
        : `${plural(data.hooks.length, 'webhook')}; ${plural(data.deliveries.length, 'notice')} listed, ${failing} of them failed.`}
    </p>
    <p class="mb-2 text-ink-2">
      A notice is a <code class="num">POST</code> of JSON, signed as Standard Webhooks 1.0 says: HMAC-SHA256
      of
      <code class="num">webhook-id.webhook-timestamp.body</code> in
      <code class="num">webhook-signature</code>. One that fails is tried again after growing pauses, for
      about 22 hours. The same notice has the same
      <code class="num">webhook-id</code>.
    </p>
    <p class="text-ink-2">
      Addresses lie on this machine’s loopback range, or are named in <code class="num"
        >TROMIX_HOOK_TARGETS</code
      >. Redirects are not followed.
    </p>
  {/snippet}
  <form
    class="flex flex-wrap items-end gap-x-3 gap-y-2 border-b border-rule px-4 py-3"
    aria-label="New webhook"
    onsubmit={add}
  >
    <Labelled label="name"
      ><input class="w-36 field" maxlength="100" required bind:value={form.name} /></Labelled
    >
    <Labelled label="address" grows
      ><input
        class="w-full min-w-40 field"
        type="url"
        placeholder="http://127.0.0.1:8080/notices"
        required
        bind:value={form.url}
      /></Labelled
    >
    <Labelled label="is told from"
      ><select class="field" bind:value={form.least}
        >{#each SEVERITIES as severity (severity)}<option>{severity}</option>{/each}</select
      ></Labelled
    >
    <button class="button button-solid">Add it</button>
  </form>
  {#if fresh}
    <p class="flex flex-wrap items-center gap-2 border-b border-rule bg-pen-soft px-4 py-2" role="status">
      <span>The key of <b class="font-semibold">{fresh.name}</b>, shown this once:</span>
      <code class="num">{fresh.secret}</code>
      <button class="button" onclick={() => fresh && copyText(fresh.secret)}>Copy</button>
      <button class="button" onclick={() => (fresh = null)}>I have it</button>
    </p>
  {/if}
  <ScrollRegion label="Webhooks">
    <DataTable
      label="Webhooks"
      rows={data.hooks}
      columns={hookColumns}
      keyOf={({ id }) => id}
      sort="name"
      param="hooks"
      file="webhooks"
      short
      empty="No webhook yet."
    >
      {#snippet head()}<h1 class="text-[13px] text-ink">Webhooks</h1>{/snippet}
      {#snippet cell(row)}
        <span class="flex gap-1.5"
          ><button class="button px-1.5 py-0" onclick={() => void test(row)}>Send a test</button><button
            class="button px-1.5 py-0"
            onclick={() => {
              removing = row;
              question = `Nothing is sent to ${row.url} any more.`;
            }}>Remove</button
          ></span
        >
      {/snippet}
    </DataTable>
    <DataTable
      label="What was sent"
      rows={data.deliveries}
      columns={deliveryColumns}
      keyOf={({ id }) => id}
      sort=""
      param="sent"
      file="notices"
      short
      empty="Nothing was sent yet."
    >
      {#snippet head()}<h2 class="text-[13px] text-ink">What was sent</h2>{/snippet}
      {#snippet cell(row)}
        <span class={row.state === 'failed' ? 'text-alarm' : row.state === 'sent' ? 'text-ok' : 'text-ink-2'}
          ><span aria-hidden="true">{SIGNS[row.state]}</span>
          {stateWords(row)}{row.status > 0 && row.state !== 'sent' ? `, status ${row.status}` : ''}</span
        >
      {/snippet}
    </DataTable>
  </ScrollRegion>
</Page>
<Confirm bind:question title="Remove this webhook?" action="Remove it" onconfirm={() => void remove()} />
