<script lang="ts">
  import { page } from '$app/state';
  import { formatCount, formatShare, plural } from '@tromix/core/text/format';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import {
    detailReading,
    failureName,
    failurePlace,
    stateWords,
    whyOne
  } from '$lib/ui/failures/failure-words';
  import { failureTicket } from '$lib/ui/failures/failure-ticket';
  import FailuresOverTime from '$lib/ui/failures/FailuresOverTime.svelte';
  import FailureWays from '$lib/ui/failures/FailureWays.svelte';
  import Merge from '$lib/ui/failures/Merge.svelte';
  import MarkFailure from '$lib/ui/failures/MarkFailure.svelte';
  import WhatCameBefore from '$lib/ui/failures/WhatCameBefore.svelte';
  import ThrownAt from '$lib/ui/failures/ThrownAt.svelte';
  import FoundSign from '$lib/ui/findings/FoundSign.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import { copyText, type Action } from '$lib/ui/kit/actions';
  import { saveText } from '$lib/ui/kit/save-text';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { plainText } from '@tromix/core/text/words';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import type { FailureDetail } from '$lib/server/queries/failure';
  import { failuresOffer } from '$lib/ui/watch/offer-of';
  import { watchable } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const failure = $derived(data.failure);
  watchable(() => failuresOffer(data.scope, data.identity));
  const title = $derived(failureName(data.identity));
  const example = $derived(failure?.example ?? null);
  const said = $derived(failure ? detailReading(failure) : []);
  const failureExports = (detail: FailureDetail): Action[] => {
    const text = (): string => failureTicket(detail, page.url.href);
    return [
      { name: 'Text for a ticket, copied', run: () => copyText(text()) },
      {
        name: 'Text for a ticket, as a file',
        run: () => saveText(`failure-${data.id}.md`, text(), 'text/markdown')
      }
    ];
  };
  const open = (id: number): string => viewLink(`/failures/${id}`);
  pinnable(() => ({
    title,
    sentence: said.map(plainText).join(' ') || title,
    figures: failure
      ? [
          { name: 'times', value: formatCount(failure.group.times) },
          { name: 'requests', value: formatCount(failure.group.requests) },
          ...(failure.group.people > 0 ? [{ name: 'people', value: formatCount(failure.group.people) }] : []),
          { name: 'first', value: dateTime(failure.group.firstMs) },
          { name: 'last', value: dateTime(failure.group.lastMs) }
        ]
      : [],
    traces: example?.traceId ? [example.traceId] : []
  }));
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['endpoint', 'service', 'host', 'release', 'time', 'run']} window={data.window} />
  {/snippet}
  {#snippet reading()}
    {#each said as sentence, i (i)}<Sentence text={sentence} />{/each}
    {#each failure?.findings ?? [] as finding (finding.title)}
      <section class="mt-2" aria-label="Finding">
        <h3 class="font-[620]">
          <FoundSign severity={finding.severity} />
          <a class="hover:underline" href={viewLink(`/findings/${finding.rule}`)}>{finding.title}</a>
        </h3>
        <p class="text-ink-2">{finding.sentence} {finding.remedy}</p>
      </section>
    {/each}
    {#if failure && example}<WhatCameBefore {example} {title} at={failure.at} of={failure.of} />{/if}
    <h3 class="mt-3 mb-1 heading">Why these are one</h3>
    <p class="text-ink-2">They have in common:</p>
    <ul class="list-disc pl-4 break-words text-ink-2">
      {#each whyOne(data.identity) as reason, i (i)}<li>{reason}</li>{/each}
    </ul>
    {#if failure && failure.merged.length > 0}<p class="mt-1 text-ink-2">
        Somebody took them to be one with what follows; a request with several of them counts for each.
      </p>{/if}
    <Merge id={data.id} merged={failure?.merged ?? []} others={data.others} />
  {/snippet}

  {#if !failure}
    <Empty title="It did not happen in this scope">
      <p class="break-words">{title}</p>
      <p>Choose other times, or another endpoint.</p>
      <a class="button" href={viewLink('/failures')}>All failures</a>
    </Empty>
  {:else}
    {@const { group } = failure}
    <ScrollRegion label="Failure">
      <header class="border-b border-rule px-4 pt-3 pb-2">
        <div class="flex items-start gap-3">
          <h1 class="min-w-0 text-[17px] leading-snug break-words">{title}</h1>
          <span class="ml-auto flex flex-none gap-1.5">
            <ExportMenu exports={failureExports(failure)} />
            <a class="button" href={viewLink('/requests', { failure: data.id })}>Its requests</a>
            <a class="button" href={viewLink('/failures')}>All failures</a>
          </span>
        </div>
        <p class="text-ink-2">
          {#if failurePlace(data.identity)}<span class="num">{failurePlace(data.identity)}</span
            >&nbsp;·&nbsp;{/if}seen
          <b class="text-ink">{plural(group.times, 'time')}</b> in {plural(
            group.requests,
            'request'
          )}{group.people > 0 ? ` of ${plural(group.people, 'user or session', 'users or sessions')}` : ''} · first
          {dateTime(group.firstMs)}, last {dateTime(group.lastMs)}{#if group.mark}&nbsp;·&nbsp;<b
              class={group.state.state === 'back' ? 'text-alarm' : 'text-ink'}>{stateWords(group)}</b
            >{/if}
        </p>
        <div class="mt-1.5 flex flex-wrap items-center gap-2">
          <MarkFailure {group} releases={failure.places.releases.map(({ name }) => name)} />
        </div>
      </header>
      <section class="border-b border-rule bg-sheet pt-2" aria-label="The way through the services">
        {#if failure.ways.length > 0}<FailureWays ways={failure.ways} />
        {:else if failure.startsAs.length > 0}
          <p class="px-4 pb-2">
            It does not start here. It passes on
            {#each failure.startsAs as { id, identity, times }, i (id)}{i > 0 ? ', ' : ' '}<a
                class="underline"
                href={open(id)}>{failureName(identity)}</a
              >
              <span class="num text-ink-2">{formatCount(times)}</span>{/each}.
          </p>
        {:else}<p class="px-4 pb-2 text-ink-3">None of its traces is kept: its way is not told.</p>{/if}
        <div class="px-2">
          <FailuresOverTime
            parts={[{ name: 'times', series: group.series }]}
            fromMs={failure.fromMs}
            binMs={failure.binMs}
            toMs={data.window.toUs / 1000}
            flags={data.flags.filter(({ service }) =>
              failure.ways.some(({ stations }) => stations.some((one) => one.service === service))
            )}
            file="failure-over-time"
            watch={failuresOffer(data.scope, data.identity)}
            of={failure.places.hosts.map(({ name: host, service }) => ({ host, pid: 0, service }))}
          />
        </div>
      </section>
      <div class="grid lg:grid-cols-[minmax(0,1.6fr)_minmax(0,1fr)]">
        <section class="min-w-0 border-r border-rule px-4 py-2" aria-label="Where it is thrown">
          <h2 class="mb-1 text-[13px]">Where it is thrown</h2>
          {#if example?.exception}<ThrownAt
              exception={example.exception}
              hasSources={data.hasSources}
              service={failure.places.hosts[0]?.service ?? ''}
              source={example.source}
              template={data.sourceLink}
            />
          {:else if example}<p class="text-ink-2">
              The span failed without telling of an exception: {data.identity.message ||
                'its status alone says so'}.
            </p>
          {:else}<p class="text-ink-3">None of its requests is kept.</p>{/if}
        </section>
        <div class="min-w-0">
          <section class="py-2" aria-label="What sets these requests apart">
            <h2 class="mb-1 px-4 text-[13px]">What sets these requests apart</h2>
            {#if failure.apart.rows.length > 0}
              <table class="w-full" aria-label="What sets these requests apart">
                <thead
                  ><tr class="border-y border-rule"
                    ><th class="column">attribute</th><th class="column text-right">of these</th><th
                      class="column text-right">else</th
                    ></tr
                  ></thead
                >
                <tbody>
                  {#each failure.apart.rows as row (`${row.name} ${row.value}`)}
                    <tr class="border-b border-grid"
                      ><td class="max-w-0 truncate px-2 py-1 num" title="{row.name}: {row.value}"
                        >{row.name}: {row.value}</td
                      ><td class="px-2 text-right num">{formatShare(row.slowShare)}</td><td
                        class="px-2 text-right num text-ink-2">{formatShare(row.otherShare)}</td
                      ></tr
                    >
                  {/each}
                </tbody>
              </table>
            {:else}<p class="px-4 text-ink-3">
                {failure.apart.these === 0
                  ? 'None of these requests is kept.'
                  : `Nothing that was recorded sets ${plural(failure.apart.these, 'request')} apart from ${formatCount(failure.apart.others)} others of the same endpoints.`}
              </p>{/if}
          </section>
          {#each [{ name: 'Endpoints', rows: failure.places.endpoints }, { name: 'Hosts', rows: failure.places.hosts }, { name: 'Releases', rows: failure.places.releases }] as { name, rows } (name)}
            {#if rows.length > 0}
              <section class="border-t border-rule py-2" aria-label={name}>
                <h2 class="mb-1 px-4 text-[13px]">{name}</h2>
                {#each rows as row (`${row.service} ${row.name}`)}
                  <p class="flex justify-between gap-3 px-4 py-0.5 num">
                    <span class="min-w-0 truncate" title="{row.service}: {row.name}"
                      >{row.name} <span class="text-ink-3">{row.service}</span></span
                    >
                    <span class="text-ink-2">{formatCount(row.times)}</span>
                  </p>
                {/each}
              </section>
            {/if}
          {/each}
          {#if failure.withIt.length > 0}
            <section class="border-t border-rule py-2" aria-label="Failures that occur with it">
              <h2 class="mb-1 px-4 text-[13px]">In the same traces</h2>
              {#each failure.withIt as { id, identity, traces } (id)}
                <p class="flex justify-between gap-3 px-4 py-0.5">
                  <a class="min-w-0 truncate hover:underline" href={open(id)} title={failureName(identity)}
                    >{failureName(identity)}</a
                  >
                  <span class="num text-ink-2">{formatCount(traces)}</span>
                </p>
              {/each}
            </section>
          {/if}
        </div>
      </div>
    </ScrollRegion>
  {/if}
</Page>
