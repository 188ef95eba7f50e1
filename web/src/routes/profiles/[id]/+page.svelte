<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import CpuStrip from '$lib/ui/flame/CpuStrip.svelte';
  import FlameGraph from '$lib/ui/flame/FlameGraph.svelte';
  import FunctionTable from '$lib/ui/flame/FunctionTable.svelte';
  import { ownEnd, placeOf, profileReading } from '$lib/ui/flame/profile-reading';
  import { ProfileSession } from '$lib/ui/flame/profile-session.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime, shortTime } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const item = $derived(data.profile);
  describeKeys([
    { keys: '↑ ↓ ← →', does: 'in the picture: caller, callee, neighbours' },
    { keys: 'Enter · 0', does: 'zoom to the frame, show all' },
    { keys: '+ − · Shift ← →', does: 'zoom, pan' },
    { keys: 'Ctrl wheel · drag', does: 'zoom, pan' },
    { keys: 'h', does: 'follow the heaviest branch' },
    { keys: 's', does: 'search functions' },
    { keys: '← → · Esc', does: 'on the CPU strip: move, clear the selection' }
  ]);

  let session = $state.raw<ProfileSession | null>(null);
  let flame = $state<ReturnType<typeof FlameGraph> | null>(null);
  let search = $state('');
  let searchField = $state<HTMLInputElement | null>(null);
  let selected = $state(-1);
  /** The selection while it is dragged; the URL holds it once it stands. */
  let dragged = $state.raw<{ from: number; to: number } | null>(null);

  $effect(() => {
    const opening = new ProfileSession(item.id);
    session = opening;
    selected = -1;
    return () => opening.close();
  });

  const inUrl = $derived.by(() => {
    const from = Number(page.url.searchParams.get('cutFrom') ?? NaN);
    const to = Number(page.url.searchParams.get('cutTo') ?? NaN);
    return Number.isFinite(from) && Number.isFinite(to) && to > from ? { from, to } : null;
  });
  /** What the time rail selects, where it meets the profile. */
  const onRail = $derived.by(() => {
    const { from, to } = data.scope;
    if (from === undefined || to === undefined || item.startedAtUs === null) return null;
    const cut = {
      from: Math.max(0, (from * 1000 - item.startedAtUs) * 1000),
      to: Math.min(item.durationNs, (to * 1000 - item.startedAtUs) * 1000)
    };
    return cut.to > cut.from ? cut : null;
  });
  const selection = $derived(dragged ?? inUrl ?? onRail);
  const lengthNs = $derived(selection ? selection.to - selection.from : item.durationNs);
  $effect(() => session?.select(selection?.from ?? 0, selection?.to ?? Infinity));

  function select(next: { from: number; to: number } | null, done: boolean): void {
    dragged = next;
    if (!done) return;
    const query = new URLSearchParams(page.url.searchParams);
    query.delete('cutFrom');
    query.delete('cutTo');
    if (next) {
      query.set('cutFrom', String(Math.round(next.from)));
      query.set('cutTo', String(Math.round(next.to)));
    }
    void goto(`${page.url.pathname}?${query}`, { keepFocus: true, noScroll: true }).then(
      () => (dragged = null)
    );
  }

  const opened = $derived(session?.opened ?? null);
  const view = $derived(session?.view ?? null);
  const found = $derived.by(() => {
    const text = search.trim().toLowerCase();
    if (!opened || text === '') return null;
    return new Set(
      opened.frames.flatMap((frame, i) =>
        `${frame.name} ${frame.file}`.toLowerCase().includes(text) ? [i] : []
      )
    );
  });
  const foundShare = $derived.by(() => {
    if (!found || !opened || !view) return 0;
    // Each sample once: nodes found below another found one add nothing.
    const covered = new Uint8Array(opened.nodeFrame.length);
    let sum = 0;
    for (let node = 0; node < opened.nodeFrame.length; node++) {
      const parent = opened.nodeParent[node];
      const here = found.has(opened.nodeFrame[node]);
      if (here && (parent < 0 || !covered[parent])) sum += view.total[node];
      covered[node] = here || (parent >= 0 && covered[parent]) ? 1 : 0;
    }
    return view.sum > 0 ? sum / view.sum : 0;
  });

  const selectedFrame = $derived(opened && selected >= 0 ? opened.nodeFrame[selected] : -1);
  const selectedWeight = $derived(view?.functions.find(({ frame }) => frame === selectedFrame) ?? null);

  /** Selects a function: its heaviest node in the picture. */
  function selectFunction(frame: number): void {
    if (!opened || !view) return;
    let best = -1;
    for (let node = 0; node < opened.nodeFrame.length; node++) {
      if (
        opened.nodeFrame[node] === frame &&
        view.total[node] > 0 &&
        (best < 0 || view.total[node] > view.total[best])
      )
        best = node;
    }
    selected = best;
    flame?.show(best);
  }

  function followHeaviest(): void {
    if (!opened || !view) return;
    const end = ownEnd(opened, view.heaviest);
    selected = end >= 0 ? end : view.heaviest.at(-1)!;
    flame?.show(selected);
  }

  function onkeydown(event: KeyboardEvent): void {
    if ((event.target as HTMLElement).matches('input, textarea') || event.metaKey || event.ctrlKey) return;
    if (event.key === 'h') followHeaviest();
    if (event.key === 's') {
      event.preventDefault();
      searchField?.focus();
    }
  }
  const began = $derived(item.startedAtUs === null ? null : item.startedAtUs / 1000);
</script>

<svelte:window {onkeydown} />

<Page>
  {#snippet scope()}
    <span>
      Looking at <b class="font-semibold text-ink">CPU samples</b> of
      <b class="font-semibold text-ink">{item.service || item.name || 'an unnamed process'}</b>{#if item.pid},
        process <b class="font-semibold text-ink">{item.pid}</b>{/if}{#if item.host}&nbsp;on <b
          class="font-semibold text-ink">{item.host}</b
        >{/if}
      {#if selection && began !== null}, from <b class="num font-semibold text-ink"
          >{exactTime(began + selection.from / 1e6)}</b
        >
        to <b class="num font-semibold text-ink">{exactTime(began + selection.to / 1e6)}</b>
      {:else if selection}, from <b class="num font-semibold text-ink">{formatDuration(selection.from)}</b> to
        <b class="num font-semibold text-ink">{formatDuration(selection.to)}</b>
      {:else}, all <b class="num font-semibold text-ink">{formatDuration(item.durationNs)}</b
        >{#if began !== null}&nbsp;from <b class="num font-semibold text-ink"
            >{shortTime(began, data.nowMs)}</b
          >{/if}
      {/if}
    </span>
    {#if selection}<button class="ml-1 button" onclick={() => select(null, true)}>Whole profile</button>{/if}
  {/snippet}

  {#snippet reading()}
    {#if session?.error}
      <p class="text-alarm" role="alert">{session.error}</p>
    {:else if opened && view}
      {#each profileReading(opened, view, lengthNs) as sentence (sentence)}<Sentence text={sentence} />{/each}
      {#if view.sum > 0}
        <button class="button button-solid" onclick={followHeaviest}>Follow the heaviest branch</button>
        <h3 class="mt-3.5 mb-1 heading">Heaviest branch</h3>
        <ol class="num" aria-label="Heaviest branch">
          {#each view.heaviest.slice(1) as node (node)}
            {@const frame = opened.frames[opened.nodeFrame[node]]}
            <li class="flex gap-2 border-b border-grid">
              <button
                class="min-w-0 flex-1 truncate py-0.5 text-left hover:underline {frame.kind === 'app'
                  ? 'font-semibold'
                  : 'text-ink-3'}"
                aria-current={node === selected ? 'true' : undefined}
                title="{frame.name} {frame.file}:{frame.line}"
                onclick={() => {
                  selected = node;
                  flame?.show(node);
                }}>{frame.name}</button
              >
              <span class="flex-none py-0.5">{formatShare(view.total[node] / view.sum)}</span>
            </li>
          {/each}
        </ol>
      {/if}
      {#if selectedFrame >= 0}
        {@const frame = opened.frames[selectedFrame]}
        <section aria-label="Selected">
          <h3 class="mt-3.5 mb-1 heading">Selected</h3>
          <p class="num font-semibold break-words" data-testid="selected-function">{frame.name}</p>
          <p class="mb-1 num break-words text-ink-2" data-testid="selected-place">{placeOf(frame)}</p>
          <p class="mb-1 text-[11px] text-ink-3">
            {frame.package
              ? `dependency ${frame.package}`
              : frame.kind === 'app'
                ? 'application'
                : frame.kind}
          </p>
          <table class="w-full num">
            <tbody>
              <tr class="border-b border-grid"
                ><th scope="row" class="py-1 text-left font-normal">self</th><td class="text-right"
                  >{formatDuration(selectedWeight?.self ?? 0)}</td
                ><td class="text-right">{formatShare((selectedWeight?.self ?? 0) / view.sum)}</td></tr
              >
              <tr class="border-b border-grid"
                ><th scope="row" class="py-1 text-left font-normal">total</th><td class="text-right"
                  >{formatDuration(selectedWeight?.total ?? 0)}</td
                ><td class="text-right">{formatShare((selectedWeight?.total ?? 0) / view.sum)}</td></tr
              >
              <tr
                ><th scope="row" class="py-1 text-left font-normal">deepest</th><td class="text-right"
                  >{opened.deepest[selectedFrame]}×</td
                ><td class="text-right text-ink-3"
                  >{opened.deepest[selectedFrame] > 1 ? 'calls itself' : 'no recursion'}</td
                ></tr
              >
            </tbody>
          </table>
          <button class="mt-2 button" onclick={() => flame?.zoomTo(selected)}>Zoom to it</button>
        </section>
      {/if}
      {#each opened.warnings as warning (warning.code)}
        <p class="mt-2 text-[11px] text-ink-3">{formatCount(warning.count)}×: {warning.message}</p>
      {/each}
    {:else}
      <p class="text-ink-3">Reading the samples…</p>
    {/if}
  {/snippet}

  {#if session?.error}
    <Empty title="This profile cannot be shown">
      <p>{session.error}</p>
      <a class="button" href={viewLink('/profiles')}>Other profiles</a>
    </Empty>
  {:else if opened && view}
    <div class="flex items-center gap-3 border-b border-rule px-4 py-1.5 whitespace-nowrap text-ink-2">
      <span>From the root</span>
      <input
        class="w-56 field"
        placeholder="Search functions"
        aria-label="Search functions"
        bind:this={searchField}
        bind:value={search}
        onkeydown={(event) => event.key === 'Escape' && (search = '')}
      />
      {#if found}<span>{plural(found.size, 'function')}, {formatShare(foundShare)} of the CPU selected</span
        >{/if}
      <span class="ml-auto">{plural(view.samples, 'sample')} · darker = more <u>self</u> time</span>
    </div>
    <CpuStrip strip={opened.strip} durationNs={opened.durationNs} {selection} onselect={select} />
    <FlameGraph bind:this={flame} {opened} {view} {found} bind:selected />
    <div class="h-[38%] min-h-40 border-t border-rule bg-sheet">
      <FunctionTable
        {opened}
        functions={view.functions}
        sum={view.sum}
        {found}
        selected={selectedFrame}
        onselect={selectFunction}
      />
    </div>
  {:else}
    <div class="grid h-full place-items-center text-ink-3" role="status">
      Reading the samples of {formatDuration(item.durationNs)}…
    </div>
  {/if}
</Page>
