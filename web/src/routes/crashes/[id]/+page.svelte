<script lang="ts">
  import { CAUSES } from '@tromix/core/crashes/causes';
  import { exitMeaning, signalMeaning } from '@tromix/core/crashes/signals';
  import { formatBytes, formatCount, formatDuration } from '@tromix/core/text/format';
  import { plainText } from '@tromix/core/text/words';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import BesideStrip from '$lib/ui/crashes/BesideStrip.svelte';
  import { crashTitle } from '$lib/ui/crashes/crash-list';
  import { crashReading } from '$lib/ui/crashes/crash-reading';
  import ThrownAt from '$lib/ui/failures/ThrownAt.svelte';
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Warnings from '$lib/ui/kit/Warnings.svelte';
  import { dateTime, exactTime } from '$lib/ui/kit/time';
  import { evidenceLink, viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { scopeWindow } from '$lib/scope';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const { detail } = $derived(data);
  const { item, crash } = $derived(detail);
  const atUs = $derived(item.startedAtUs ?? item.receivedAtUs);
  const title = $derived(crashTitle(item.summary));
  const said = $derived(crashReading(detail, atUs));
  const window = $derived(scopeWindow(data.scope, data.nowMs));
  pinnable(() => ({
    title,
    sentence: said.map(plainText).join(' '),
    figures: facts.slice(0, 6).map(([name, value]) => ({ name, value })),
    files: [item.id],
    traces: detail.cutOff.map(({ traceId }) => traceId)
  }));
  const ended = $derived.by((): [string, string][] => {
    if (!crash) return [];
    const { signal, exitCode, runtime } = crash;
    const meaning = exitCode === null ? '' : exitMeaning(exitCode, runtime);
    return [
      ...(signal ? [['signal', `${signal}: ${signalMeaning(signal)}`] as [string, string]] : []),
      ...(exitCode !== null
        ? [['exit code', `${exitCode}${meaning ? `: ${meaning}` : ''}`] as [string, string]]
        : [])
    ];
  });
  const facts = $derived.by((): [string, string][] => {
    if (!crash) return [];
    return [
      ['ended', `${dateTime(atUs / 1000)} · ${exactTime(atUs / 1000)}`],
      ...ended,
      ['was up', crash.uptimeMs === null ? 'not told' : formatDuration(crash.uptimeMs * 1e6)],
      ['thread', crash.thread || 'not told'],
      ['runtime', crash.runtime || 'not told'],
      ['process', item.pid > 0 ? String(item.pid) : 'not told'],
      ['program', crash.program || 'not told']
    ];
  });
  /** A figure and its unit stay on one line. */
  const bytesText = (bytes: number): string => formatBytes(bytes).replaceAll(' ', '\u00a0');
  const UNITS = { bytes: bytesText, files: formatCount, processes: formatCount, seconds: formatCount };
  const memory = $derived<[string, string][]>([
    ...(crash?.memory ?? []).map(({ name, bytes }): [string, string] => [name, bytesText(bytes)]),
    ...(crash?.limits ?? []).map(({ name, value, unit }): [string, string] => [
      `limit of ${name}`,
      value === null ? 'none' : UNITS[unit](value)
    ])
  ]);
  /** Whose stacks the threads view reads too. */
  const hasThreads = $derived(
    item.format === 'node-crash' || (item.format === 'crash-text' && crash?.runtime === 'Go')
  );
</script>

<Page>
  {#snippet scope()}<ScopeLine which={['service', 'host', 'release', 'time']} {window} />{/snippet}
  {#snippet reading()}
    {#each said as sentence, i (i)}<Sentence text={sentence} />{/each}
    <Warnings warnings={item.summary?.warnings ?? []} />
    {#if facts.length > 0}<h3 class="mt-3 mb-1 heading">The process</h3>
      <FactTable {facts} />{/if}
    {#if memory.length > 0}<h3 class="mt-3 mb-1 heading">Memory at its end, and limits</h3>
      <FactTable facts={memory} />
    {:else if crash}<p class="mt-2 text-[11px] text-ink-3">Its memory at the end was not recorded.</p>{/if}
    {#if detail.dumps.length > 0}
      <h3 class="mt-3 mb-1 heading">Taken around it</h3>
      {#each detail.dumps as dump (dump.id)}<a class="mr-1.5 mb-1.5 button" href={evidenceLink(dump)}
          >{dump.kind === 'heap' ? 'heap dump' : 'thread dump'}, {exactTime(dump.startedAtUs! / 1000)}</a
        >{/each}
    {/if}
  {/snippet}

  <ScrollRegion label="Crash">
    <header class="border-b border-rule px-4 pt-3 pb-2">
      <div class="flex items-start gap-3">
        <h1 class="min-w-0 text-[17px] leading-snug break-words">{title}</h1>
        <span class="ml-auto flex flex-none gap-1.5">
          {#if hasThreads}<a class="button" href={viewLink(`/threads/${item.id}`)}>Its stacks</a>{/if}
          <a class="button" href="/api/evidence/{item.id}/content" download={item.name || 'crash.txt'}
            >Its file</a
          >
          <a class="button" href={viewLink('/crashes')}>All crashes</a>
        </span>
      </div>
      <p class="text-ink-2">
        <b class="text-alarm">{item.summary ? CAUSES[item.summary.cause] : 'not told'}</b> ·
        {item.service || 'a process that was not named'}{item.host ? ` on ${item.host}` : ''}{item.release
          ? ` · release ${item.release}`
          : ''} · ended {dateTime(atUs / 1000)}
      </p>
    </header>
    <div class="grid lg:grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)]">
      <section class="min-w-0 border-r border-b border-rule px-4 py-2" aria-label="Where it ended">
        <h2 class="mb-1 text-[13px]">Where it ended</h2>
        {#if crash?.exception}<ThrownAt
            exception={crash.exception}
            hasSources={data.hasSources}
            service={item.service}
          />
        {:else}<p class="text-ink-3">Nothing that it left names a function.</p>{/if}
      </section>
      <section class="min-w-0 border-b border-rule py-2" aria-label="What it wrote before">
        <h2 class="mb-1 px-4 text-[13px]">What it wrote before</h2>
        {#each detail.before as step, i (i)}
          <p class="flex gap-2 border-t border-grid px-4 py-1 num">
            <span class="flex-none text-ink-3">−{formatDuration((atUs - step.atUs) * 1000)}</span>
            <span class="truncate" title={step.words}>{step.words}</span>
          </p>
        {:else}<p class="px-4 text-ink-3">No log records of it came in the 10 minutes before.</p>{/each}
      </section>
    </div>
    {#if item.service}
      <section class="border-b border-rule py-2" aria-label="The program or the place">
        <h2 class="mb-1 px-4 text-[13px]">The program or the place?</h2>
        <BesideStrip beside={detail.beside} {atUs} service={item.service} host={item.host} />
      </section>
    {/if}
    {#if detail.cutOff.length + detail.failedCalls.length > 0}
      <section class="border-b border-rule py-2" aria-label="What it cut off">
        <h2 class="mb-1 px-4 text-[13px]">What it cut off</h2>
        <ul class="px-4">
          {#each detail.cutOff as cut (cut.traceId + cut.childId)}
            <li class="flex gap-2 border-t border-grid py-1">
              <span class="w-20 flex-none num text-ink-3">−{formatDuration((atUs - cut.startUs) * 1000)}</span
              >
              {#if cut.spanId}<a
                  class="truncate underline"
                  href={viewLink(`/requests/${cut.traceId}/${cut.spanId}`, {}, { row: cut.childId })}
                  >a request that got as far as <span class="num">{cut.last}</span></a
                >{:else}<span class="truncate"
                  >a request that got as far as <span class="num">{cut.last}</span></span
                >{/if}
            </li>
          {/each}
          {#each detail.failedCalls as call (call.traceId + call.callId)}
            <li class="flex gap-2 border-t border-grid py-1">
              <span class="w-20 flex-none num text-ink-3"
                >{call.atUs < atUs ? '−' : '+'}{formatDuration(Math.abs(call.atUs - atUs) * 1000)}</span
              >
              <a
                class="truncate underline"
                href={viewLink(`/requests/${call.traceId}/${call.spanId}`, {}, { row: call.callId })}
                >{call.service}: <span class="num">{call.name}</span> got {call.answer}</a
              >
            </li>
          {/each}
        </ul>
      </section>
    {/if}
    {#if crash && crash.lastLines.length > 0}
      <section class="px-4 py-2" aria-label="Last lines of its standard error">
        <h2 class="mb-1 text-[13px]">Last lines of its standard error</h2>
        <pre class="max-h-96 overflow-auto num text-[11px] whitespace-pre-wrap">{crash.lastLines.join(
            '\n'
          )}</pre>
      </section>
    {/if}
  </ScrollRegion>
</Page>
