<script lang="ts">
  import { page } from '$app/state';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { words } from '@tromix/core/text/words';
  import type { ObservedCall } from '$lib/server/record/observe';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { ObservationClient } from '$lib/ui/recorder/observation.svelte';
  import ProcessTable from '$lib/ui/recorder/ProcessTable.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { durationColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const given = (name: string): string => page.url.searchParams.get(name) ?? '';
  const numberOf = (name: string): number => Number(given(name)) || 0;
  const wanted = $derived(given('process') ? { service: given('process'), pid: numberOf('pid') } : null);
  let address = $state('');
  let service = $state('');
  let name = $state(given('name'));
  let file = $state(given('file'));
  let line = $state(numberOf('line') || 1);
  let column = $state(given('column') === '' ? 1 : numberOf('column'));
  let calls = $state(20);
  let seconds = $state(20);
  let share = $state(5);
  const client = new ObservationClient();
  const observed = $derived(client.observed);

  interface Row extends ObservedCall {
    id: number;
  }
  const rows = $derived((observed?.calls ?? []).map((call, id): Row => ({ ...call, id })));
  const chosen = $derived(given('call') === '' ? -1 : numberOf('call'));
  const shown = $derived(rows[chosen] ?? null);
  const argumentWords = ({ arguments: values }: ObservedCall): string =>
    values.map(({ name: of, value }) => `${of} = ${value}`).join(', ');
  const resultWords = ({ result }: ObservedCall): string =>
    result === null ? 'its end was not seen' : `${result.how === 'threw' ? 'threw ' : ''}${result.value}`;
  const COLUMNS: Column<Row>[] = [
    durationColumn('at', 'after', ({ atMs }) => atMs * 1e6, { width: 84 }),
    textColumn('arguments', 'called with', argumentWords, { width: 200, grows: true }),
    textColumn('result', 'gave back', resultWords, { width: 160, grows: true }),
    durationColumn('took', 'took', ({ tookMs }) => (tookMs === null ? null : tookMs * 1e6), {
      width: 84,
      about: 'From its first to its last statement, without the pauses for looking'
    }),
    durationColumn('paused', 'paused', ({ pausedMs }) => pausedMs * 1e6, {
      width: 84,
      about: 'How long the process stood still for this call'
    }),
    textColumn('caller', 'called by', ({ stack }) => stack[0] ?? '', { width: 150 })
  ];
  const begin = (): Promise<void> =>
    client.start({ address, name, file, line, column, calls, seconds, share: share / 100 });
</script>

<Page>
  {#snippet scope()}<span
      >Looking at <b class="font-semibold text-ink">{name || 'one function'}</b> from inside a running process</span
    >{/snippet}
  {#snippet reading()}
    {#if client.error}<p class="text-alarm" role="alert">{client.error}</p>{/if}
    {#if observed}
      <Sentence
        text={words`${[plural(observed.calls.length, 'call')]} seen in ${formatDuration(observed.ranMs * 1e6)}. For that the process stood still for ${formatDuration(observed.pausedMs * 1e6)} in all, ${formatShare(observed.pausedMs / (observed.ranMs || 1))} of the time.`}
      />
      {#if observed.rests > 0}<p>
          It looked away {plural(observed.rests, 'time')}, so as not to take more than its share: calls
          meanwhile are not listed.
        </p>{/if}
      {#if observed.found}<p>
          Line {given('line')} lies in
          <b class="num font-[620]">{observed.found.name || 'a function without a name'}</b>, which begins at
          line {observed.found.line}.
        </p>{/if}
      <p>{observed.ended || 'It is still looking.'}</p>
    {:else}
      <p>
        V8 stops the process at the first and the last statement of the function, for about a millisecond each
        time, and tells what it is given and gives back.
        {#if column === 0}Of the function its line {line} is known: which it is the process tells.{/if}
      </p>
    {/if}
    {#if shown}
      <h3 class="mt-3 mb-1 heading">Call {formatCount(shown.id + 1)}</h3>
      {#each shown.arguments as { name: of, value } (of)}
        <p class="num break-words"><span class="text-ink-2">{of}</span> {value}</p>
      {:else}<p class="text-ink-2">Called with nothing, or with undefined values alone.</p>{/each}
      <p class="mt-1 num break-words">{resultWords(shown)}</p>
      <h3 class="mt-3 mb-1 heading">Called by</h3>
      {#each shown.stack as frame, i (i)}<p class="num break-words text-ink-2">{frame}</p>{/each}
    {/if}
    <p class="mt-3 text-ink-2">
      Values are cut short, masked as everything that is kept, and stay in memory alone: nothing of them is
      stored. It ends by itself, also when this page is closed or this server dies. Arguments that are
      undefined are not told.
    </p>
    {#if data.done.length > 0}
      <h3 class="mt-3 mb-1 heading">What was done</h3>
      {#each data.done as { id, atUs, who, what } (id)}
        <p class="mb-1 text-[11px] text-ink-2">
          {dateTime(atUs / 1000, data.nowMs)}{who && `, session ${who}`}: {what}
        </p>
      {/each}
    {/if}
  {/snippet}

  {#if !data.mayObserve}
    <Empty title="Functions are not looked at here">
      <p>
        This shows arguments and results of a function of a process on this machine, call by call. Who runs
        this server can switch it on: start it with <code class="num">TROMIX_OBSERVE=1</code>.
      </p>
      <a class="button" href={viewLink('/recorder')}>The recorder</a>
    </Empty>
  {:else}
    <ScrollRegion label="One function from inside" class="bg-sheet">
      <ProcessTable bind:address bind:service {wanted} />
      <form
        class="flex flex-wrap items-end gap-x-4 gap-y-2 border-b border-rule px-4 py-3"
        aria-label="Function"
        onsubmit={(event) => {
          event.preventDefault();
          void begin();
        }}
      >
        <Labelled label="function"><input class="w-44 field num" bind:value={name} /></Labelled>
        <Labelled label="file"><input class="w-80 field num" bind:value={file} required /></Labelled>
        <NumberField label="line" bind:value={line} min={1} />
        <NumberField label="column" bind:value={column} min={0} />
        <NumberField label="calls" bind:value={calls} min={1} max={200} />
        <NumberField label="for at most, seconds" bind:value={seconds} min={1} max={120} />
        <NumberField label="at most, % of the time" bind:value={share} min={0.1} max={50} step="any" />
        {#if client.isRunning}
          <button class="button" type="button" onclick={() => void client.end()}>End it</button>
        {:else}
          <button class="button button-solid" disabled={address === '' || file === ''}
            >Look at its calls</button
          >
        {/if}
      </form>
      {#if rows.length > 0}
        <DataTable
          label="Calls from inside"
          {rows}
          columns={COLUMNS}
          keyOf={({ id }) => String(id)}
          hrefOf={({ id }) => {
            const query = new URLSearchParams(page.url.searchParams);
            query.set('call', String(id));
            return `?${query}`;
          }}
          sort="at"
          file="calls"
          short
        />
      {:else if observed}
        <p class="px-4 py-3 text-ink-2" role="status">
          {observed.ended === '' ? 'Waiting for its first call…' : 'It was not called in this time.'}
        </p>
      {/if}
    </ScrollRegion>
  {/if}
</Page>
