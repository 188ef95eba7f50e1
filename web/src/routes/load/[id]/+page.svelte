<script lang="ts">
  import { stepName } from '@tromix/core/load/plan';
  import { SAMPLE_ORDERS } from '@tromix/core/load/sample-rows';
  import { formatBytes, formatCount, formatDuration } from '@tromix/core/text/format';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send, sendAndSay } from '$lib/ui/frame/send';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import type { RunAnswer } from '$lib/ui/load/run-client';
  import { sampleColumns, STEP_COLUMNS } from '$lib/ui/load/run-columns';
  import RunOverTime from '$lib/ui/load/RunOverTime.svelte';
  import RunPoints from '$lib/ui/load/RunPoints.svelte';
  import RunReading from '$lib/ui/load/RunReading.svelte';
  import { RUN_PARAMS } from '$lib/ui/load/run-state';
  import { perSecond, planWords, us } from '$lib/ui/load/run-words';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const run = $derived(data.run);
  const underWay = $derived(run.state === 'running');
  const view = urlState(RUN_PARAMS);
  /** Grows while the run is under way: each time its figures are asked for anew. */
  let turn = $state(0);
  const EVERY_MS = 1000;
  const asked = resource(
    () => ({ url: `/api/load-runs/${run.key}?order=${view.shown.order}`, turn, state: run.state }),
    ({ url }, signal) => send<RunAnswer>('GET', url, undefined, signal),
    { keep: true }
  );
  $effect(() => {
    if (!underWay || asked.asking) return;
    const timer = setTimeout(() => turn++, EVERY_MS);
    return () => clearTimeout(timer);
  });

  const report = $derived(asked.value?.report);
  const names = $derived(run.plan.steps.map(stepName));
  const steps = $derived((report?.steps ?? []).map((figures, i) => ({ number: i, name: names[i], figures })));
  const figures = $derived.by((): [string, string][] => {
    if (!report) return [];
    const { samples, failed, bytes, meanUs, deviationUs, minUs, medianUs, p95Us, p99Us, maxUs } =
      report.figures;
    return [
      ['samples', formatCount(samples)],
      ['failed', formatCount(failed)],
      ['per second', perSecond(report.throughput)],
      ['mean', us(meanUs)],
      ['std. dev.', us(deviationUs)],
      ['min', us(minUs)],
      ['median', us(medianUs)],
      ['p95', us(p95Us)],
      ['p99', us(p99Us)],
      ['max', us(maxUs)],
      ['bytes', formatBytes(bytes)]
    ];
  });
  const exports = $derived(
    run.evidenceId === ''
      ? []
      : [
          { name: 'The run, JSON', href: `/api/evidence/${run.evidenceId}/content`, download: true as const },
          { name: 'Samples, CSV', href: `/api/load-runs/${run.key}/csv`, download: true as const }
        ]
  );
  pinnable(() => ({
    kind: 'load run',
    title: `Load run ${run.id}: ${run.name}`,
    figures: figures.map(([figure, value]) => ({ name: String(figure), value: String(value) })),
    verbatim: run.plan.steps.map(({ method, url }) => `${method} ${url}`).join('\n'),
    files: run.evidenceId ? [run.evidenceId] : []
  }));
  const around = $derived({
    run: run.id,
    from: Math.floor(run.startedAtUs / 60e6) * 60_000,
    to: Math.ceil((run.startedAtUs + Math.max(run.endUs, 60e6)) / 60e6) * 60_000
  });
</script>

<Page>
  {#snippet scope()}<span
      >Looking at <b class="font-semibold text-ink">load run {run.id}</b>, {run.name}, {dateTime(
        run.startedAtUs / 1000
      )}</span
    >{/snippet}
  {#snippet reading()}
    <RunReading {run} answer={asked.value} recordings={data.recordings} />
  {/snippet}
  <ScrollRegion label="Load run" class="bg-sheet">
    <div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 px-4 py-2 text-ink-2">
      <h1 class="text-[13px] text-ink">Load run {run.id}: {run.name}</h1>
      <span>{planWords(run.plan)}</span>
      {#if underWay}<span role="status" class="font-semibold text-pen"
          >running for {formatDuration((report?.endUs ?? 0) * 1000)}</span
        >{/if}
      <span class="ml-auto flex gap-1.5">
        {#if underWay}<button
            class="button button-solid"
            onclick={() =>
              void sendAndSay('POST', `/api/load-runs/${run.key}`, { how: 'stop' }, 'Stopping the run.')}
            >Stop</button
          >{/if}
        <a class="button" href={viewLink('/requests', around)}>Requests it caused</a>
        <a class="button" href={viewLink('/', around)}>Overview of it</a>
        {#if !underWay}<a class="button" href="/compare/run?run={run.id}">Compare it</a>{/if}
        {#if !underWay}<a class="button" href={viewLink('/load', {}, { again: String(run.id) })}>Repeat it</a
          >{/if}
        <ExportMenu {exports} />
      </span>
    </div>
    {#if report}
      <dl class="flex flex-wrap gap-x-5 gap-y-1 border-y border-grid px-4 py-2">
        {#each figures as [name, value] (name)}
          <div>
            <dt class="text-[11px] text-ink-3">{name}</dt>
            <dd class="num">{value}</dd>
          </div>
        {/each}
      </dl>
      <RunOverTime {report} file="load-run-{run.id}-over-time" />
      <RunPoints {report} file="load-run-{run.id}-points" />
      {#if steps.length > 1}
        <DataTable
          label="Steps"
          rows={steps}
          columns={STEP_COLUMNS}
          keyOf={({ number }) => String(number)}
          sort=""
          param="steps"
          file="load-run-{run.id}-steps"
          short
        >
          {#snippet head()}<h2 class="text-[13px] text-ink">Steps</h2>{/snippet}
        </DataTable>
      {/if}
      <DataTable
        label="Requests of the run"
        kind="request"
        rows={asked.value?.rows ?? []}
        columns={sampleColumns(names)}
        keyOf={({ number }) => String(number)}
        hrefOf={({ traceId }) => {
          const path = asked.value?.paths[traceId];
          return path ? viewLink(`/requests/${path}`) : null;
        }}
        sort=""
        file="load-run-{run.id}-requests"
        short
        empty={view.shown.order === 'failed' ? 'No request failed.' : 'No request was answered yet.'}
      >
        {#snippet head()}<h2 class="text-[13px] text-ink">Requests</h2>
          <Choices
            label="the"
            value={view.shown.order}
            choices={SAMPLE_ORDERS.map((order) => ({ key: order, name: order, href: view.href({ order }) }))}
          />{/snippet}
      </DataTable>
    {:else}<Asking of={asked} doing="Reading the run…" />{/if}
  </ScrollRegion>
</Page>
