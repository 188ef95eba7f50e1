<script lang="ts">
  import { goto, invalidate } from '$app/navigation';
  import { page } from '$app/state';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import { untrack } from 'svelte';
  import FoundSign from '$lib/ui/findings/FoundSign.svelte';
  import { send } from '$lib/ui/frame/send';
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import { formOfPlan, planForm, planOf, type PlanForm } from '$lib/ui/load/plan-form';
  import PlanFields from '$lib/ui/load/PlanFields.svelte';
  import { perSecond, planWords, stateWord } from '$lib/ui/load/run-words';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import { countColumn, durationColumn, rareColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  type Row = PageData['runs'][number];

  /** What the address names is what the form begins with: a request to repeat, a run to make again, or nothing. */
  const beginning = (): { form: PlanForm; notes: string[]; refusal: string } => {
    if (data.again) return { form: formOfPlan(data.again), notes: maskedNotes(), refusal: '' };
    if (data.repeated?.ok)
      return { form: planForm(data.repeated.steps), notes: data.repeated.notes, refusal: '' };
    return { form: planForm(), notes: [], refusal: data.repeated?.message ?? '' };
  };
  const maskedNotes = (): string[] =>
    data.again?.steps.some(({ masked }) => masked.length > 0)
      ? ['Secrets of this run were not kept: put them in place of each question mark.']
      : [];
  const begun = untrack(beginning);
  let form = $state(begun.form);
  let notes = $state(begun.notes);
  let refusal = $state(begun.refusal);
  let starting = $state(false);
  let from = page.url.search;
  $effect(() => {
    // Another request to repeat while the page is open.
    if (page.url.search === from) return;
    from = page.url.search;
    ({ form, notes, refusal } = untrack(beginning));
  });

  async function start(record: object[]): Promise<void> {
    starting = true;
    refusal = '';
    try {
      const { key } = await send<{ key: string }>('POST', '/api/load-runs', { plan: planOf(form), record });
      await goto(viewLink(`/load/${key}`));
    } catch (cause) {
      refusal = (cause as Error).message;
      await invalidate('tromix:runs');
    }
    starting = false;
  }

  const underWay = $derived(data.runs.find(({ state }) => state === 'running'));
  const last = $derived(data.runs.find(({ state }) => state !== 'running'));
  const columns: Column<Row>[] = [
    countColumn('id', 'run', ({ id }) => id, { width: 40 }),
    {
      key: 'at',
      title: 'started',
      width: 96,
      value: ({ startedAtUs }) => startedAtUs,
      text: ({ startedAtUs }) => shortTime(startedAtUs / 1000)
    },
    textColumn('name', 'name', ({ name }) => name, { width: 120, grows: true }),
    textColumn('plan', 'load', ({ plan }) => planWords(plan), { width: 130 }),
    countColumn('samples', 'requests', ({ summary }) => summary?.samples ?? null, { width: 66 }),
    rareColumn('failed', 'failed', ({ summary }) => summary?.failed ?? null, { width: 48 }),
    durationColumn('median', 'median', ({ summary }) => summary?.medianNs ?? null, { width: 72 }),
    durationColumn('p95', 'p95', ({ summary }) => summary?.p95Ns ?? null, { width: 72 }),
    {
      key: 'throughput',
      title: 'per second',
      width: 76,
      right: true,
      value: ({ summary }) => summary?.throughput ?? null,
      text: ({ summary }) => (summary ? perSecond(summary.throughput) : '–')
    },
    {
      key: 'found',
      title: 'stands out',
      width: 84,
      value: ({ summary }) => summary?.findings[0]?.sentence ?? ''
    }
  ];
</script>

<Page>
  {#snippet scope()}<span
      >Looking at <b class="font-semibold text-ink">load runs</b> made here or opened from a file</span
    >{/snippet}
  {#snippet reading()}
    <p>
      A <Hint of="loadRun">load run</Hint> sends the same steps again and again, so that what was slow once can
      be seen as often as needed, before and after a fix.
    </p>
    {#if underWay}<p class="mt-2">
        Run {underWay.id} is under way.
        <a class="button button-solid" href={viewLink(`/load/${underWay.key}`)}>Watch it</a>
      </p>{:else if last?.summary}
      <p class="mt-2">
        The last one, run {last.id}, sent {plural(last.summary.samples, 'request')}: median {formatDuration(
          last.summary.medianNs ?? NaN
        )}, p95 {formatDuration(last.summary.p95Ns ?? NaN)}, {last.summary.failed === 0
          ? 'none failed'
          : `${formatCount(last.summary.failed)} failed`}.
        <a class="button button-solid" href={viewLink(`/load/${last.evidenceId}`)}>Open it</a>
      </p>
    {/if}
    <h3 class="mt-3 mb-1 heading">How much to send</h3>
    <p class="text-ink-2">
      Users who wait for answers show what more users do to each other. Arrivals at a rate show what people
      meet when the server stands still: nobody waits politely for their turn.
    </p>
    <p class="mt-2 text-ink-2">
      10 users with 10 loops are 100 requests. With a ramp-up of 10 s a user joins every second.
    </p>
  {/snippet}
  <div class="flex min-h-0 flex-1 flex-col">
    <div class="max-h-[62%] flex-none overflow-y-auto bg-sheet">
      <PlanFields bind:form bind:notes {refusal} {starting} onstart={(record) => void start(record)} />
    </div>
    <DataTable
      label="Load runs"
      kind="load run"
      rows={data.runs}
      {columns}
      keyOf={({ key }) => key}
      hrefOf={({ key, evidenceId }) => viewLink(`/load/${evidenceId || key}`)}
      linkName={({ id, name }) => `Load run ${id}, ${name}`}
      actionsOf={(row) => [
        { name: 'Repeat it', href: viewLink('/load', {}, { again: String(row.id) }) },
        { name: 'Requests it caused', href: viewLink('/requests', { run: row.id }) }
      ]}
      sort="-at"
      file="load-runs"
      empty="No load runs yet. Give an address above, or drop the file of one on the page."
    >
      {#snippet head()}<h1 class="text-[13px]">Load runs</h1>{/snippet}
      {#snippet cell(row)}
        {#if row.state === 'running'}running
        {:else if row.summary?.findings[0]}<FoundSign severity={row.summary.findings[0].severity} />
          <span title={row.summary.findings[0].sentence}>{row.summary.findings[0].sentence}</span>
        {:else}<span class="text-ink-3" title={row.message}>{stateWord(row.state)}</span>{/if}
      {/snippet}
    </DataTable>
  </div>
</Page>
