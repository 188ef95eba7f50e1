<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { heaviestBranch } from '@tromix/core/profile/functions';
  import { UNSHAPED } from '@tromix/core/profile/shape';
  import type { SampleSelection } from '@tromix/core/profile/slice';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import CpuStrip from '$lib/ui/profile/CpuStrip.svelte';
  import { unionOf } from '@tromix/core/profile/busy-within';
  import CallTree from '$lib/ui/profile/CallTree.svelte';
  import DuringRequests from '$lib/ui/profile/DuringRequests.svelte';
  import FlameGraph from '$lib/ui/profile/FlameGraph.svelte';
  import { flameSvg, savePng } from '$lib/ui/profile/flame-picture';
  import FunctionTable from '$lib/ui/profile/FunctionTable.svelte';
  import Neighbours from '$lib/ui/profile/Neighbours.svelte';
  import Packages from '$lib/ui/profile/Packages.svelte';
  import { ownEnd, placeOf, profileReading } from '$lib/ui/profile/profile-reading';
  import { formatWeight, sampleName, wholeName } from '@tromix/core/profile/units';
  import {
    actWords,
    frameIndex,
    nameOf,
    readState,
    shapingOf,
    writeState,
    type NamedAct,
    type ViewState
  } from '$lib/ui/profile/profile-state';
  import { ProfileClient } from '$lib/ui/profile/profile-client.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { copyText, type Action } from '$lib/ui/kit/actions';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import { saveText } from '$lib/ui/kit/csv';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { exactTime, shortTime } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { SHOWS, type Show } from '$lib/ui/profile/shows';
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

  let client = $state.raw<ProfileClient | null>(null);
  let flame = $state<ReturnType<typeof FlameGraph> | null>(null);
  /** A link may ask for functions by name. */
  let search = $state(page.url.searchParams.get('find') ?? '');
  let searchField = $state<HTMLInputElement | null>(null);
  let selected = $state(-1);
  /** Function chosen in the table where the picture has no box for it. */
  let tableFrame = $state(-1);
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  /** The selection while it is dragged; the URL holds it once it stands. */
  let dragged = $state.raw<{ from: number; to: number } | null>(null);

  /** The files, as long as they are the same. */
  const files = $derived(data.together.map(({ id }) => id).join(' '));
  const parts = $derived.by(() => {
    void files;
    return untrack(() =>
      data.together.map(({ id, name, service, pid, startedAtUs }) => ({
        url: `/api/evidence/${id}/content`,
        name: [service || name, pid || ''].join(' ').trim() || id.slice(0, 8),
        offsetNs:
          item.startedAtUs === null || startedAtUs === null ? 0 : (startedAtUs - item.startedAtUs) * 1000
      }))
    );
  });
  /** The address with other files opened together with the first. */
  function togetherHref(ids: readonly string[]): string {
    const query = new URLSearchParams(page.url.searchParams);
    for (const name of ['with', 'thread', 'cutFrom', 'cutTo']) query.delete(name);
    for (const id of ids) query.append('with', id);
    return `${page.url.pathname}?${query}`;
  }
  const added = $derived(data.together.slice(1).map(({ id }) => id));
  const openTogether = $derived<Action[]>(
    data.others.slice(0, 30).map(({ id, name, service, startedAtUs }) => ({
      name: `${service || name}${startedAtUs === null ? '' : `, ${shortTime(startedAtUs / 1000, data.nowMs)}`}`,
      href: togetherHref([...added, id])
    }))
  );
  /** By itself: live updates hand over a new `data` again and again, and a profile must not be read anew for that. */
  const hasSources = $derived(data.hasSources);
  $effect(() => {
    const opening = new ProfileClient({ parts, hasSources });
    client = opening;
    selected = -1;
    return () => opening.close();
  });

  const opened = $derived(client?.opened ?? null);
  const index = $derived(opened ? frameIndex(opened.frames) : new Map<string, number>());
  const shown = $derived(readState(page.url.searchParams));
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
  const selection = $derived(dragged ?? shown.cut ?? onRail);
  const lengthNs = $derived.by(() => {
    if (!samples.spans) return item.durationNs;
    let sum = 0;
    for (let i = 0; i < samples.spans.length; i += 2) sum += samples.spans[i + 1] - samples.spans[i];
    return sum;
  });
  const shaping = $derived(opened ? shapingOf(shown, index) : UNSHAPED);
  const asked = $derived(shown.of ? (index.get(shown.of) ?? -1) : -1);
  let zoom = $state.raw({ from: 0, to: 1 });
  let pixels = $state(820);
  const samples = $derived<SampleSelection>({
    spans: shown.during
      ? unionOf(
          data.during.requests.filter(({ endpoint }) => endpoint === shown.during),
          selection?.from ?? 0,
          selection?.to ?? item.durationNs
        )
      : selection
        ? Float64Array.of(selection.from, selection.to)
        : null,
    thread: shown.thread,
    includeIdle: shown.idle
  });
  $effect(() => {
    if (!opened) return;
    const inTime = shown.show === 'time';
    client?.show({
      show: shown.show,
      selection: samples,
      shaping,
      frame: asked,
      file: shown.file,
      zoom: inTime ? zoom : { from: 0, to: 1 },
      pixels: inTime ? pixels : 0,
      moving: dragged !== null
    });
  });
  $effect(() => {
    if (opened && shown.show === 'packages') void client?.showOrigins(shown.thread);
  });

  /** Goes to another state; the browser's own buttons go back and forth between them. */
  function go(change: Partial<ViewState>): Promise<void> {
    const query = writeState(page.url.searchParams, { ...shown, ...change });
    return goto(`${page.url.pathname}?${query}`, { keepFocus: true, noScroll: true });
  }
  const hrefOf = (change: Partial<ViewState>): string =>
    `${page.url.pathname}?${writeState(page.url.searchParams, { ...shown, ...change })}`;

  function select(next: { from: number; to: number } | null, done: boolean): void {
    dragged = next;
    if (done) void go({ cut: next }).then(() => (dragged = null));
  }

  const view = $derived(client?.view ?? null);
  const act = (named: NamedAct): Promise<void> => go({ acts: [...shown.acts, named] });
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
    const covered = new Uint8Array(view.nodeFrame.length);
    let sum = 0;
    for (let node = 0; node < view.nodeFrame.length; node++) {
      const parent = view.nodeParent[node];
      const here = found.has(view.nodeFrame[node]);
      if (here && (parent < 0 || !covered[parent])) sum += view.total[node];
      covered[node] = here || (parent >= 0 && covered[parent]) ? 1 : 0;
    }
    return view.sum > 0 ? sum / view.sum : 0;
  });

  const selectedFrame = $derived(view && selected >= 0 ? (view.nodeFrame[selected] ?? -1) : tableFrame);
  const selectedWeight = $derived(view?.functions.find(({ frame }) => frame === selectedFrame) ?? null);

  /** Parts the facts of a line; a space at the begin of a block would be dropped. */
  const DOT = ' · ';
  /** The editor it is drawn with is large, and loaded only for this view. */
  const linesView = () => import('$lib/ui/profile/Lines.svelte');

  /** A branch may be thousands deep: its beginning and its end are listed. */
  const BRANCH_HEAD = 20;
  const BRANCH_TAIL = 60;
  const branch = $derived.by(() => {
    const all = view?.heaviest.slice(1) ?? [];
    if (all.length <= BRANCH_HEAD + BRANCH_TAIL) return { nodes: all, leftOut: 0 };
    const nodes = [...all.slice(0, BRANCH_HEAD), ...all.slice(-BRANCH_TAIL)];
    return { nodes, leftOut: all.length - nodes.length };
  });

  /** Selects a function: its heaviest node in the picture. */
  function selectFunction(frame: number): void {
    if (!opened || !view) return;
    tableFrame = frame;
    if (shown.show === 'neighbours') void go({ of: nameOf(opened.frames[frame]) });
    let best = -1;
    for (let node = 0; node < view.nodeFrame.length; node++) {
      if (
        view.nodeFrame[node] === frame &&
        view.total[node] > 0 &&
        (best < 0 || view.total[node] > view.total[best])
      )
        best = node;
    }
    selected = best;
    flame?.show(best);
  }

  function followHeaviest(from = -1): void {
    if (!opened || !view) return;
    if (from >= 0) {
      selected = heaviestBranch(view, view, from).at(-1)!;
      flame?.show(selected);
      return;
    }
    const end = ownEnd(opened, view);
    selected = end >= 0 ? end : view.heaviest.at(-1)!;
    flame?.show(selected);
  }

  /** Everything that can be done with a function, the same in every view. */
  function actionsOf(frame: number, node: number): Action[] {
    if (!opened || !view) return [];
    const known = opened.frames[frame];
    const name = nameOf(known);
    if (known.kind === 'root') return [];
    const path: string[] = [];
    for (let at = node; at > 0; at = view.nodeParent[at]) path.push(opened.frames[view.nodeFrame[at]].name);
    // Read from the leaves the way up is the way to the leaf.
    const stack = shown.show === 'leaves' ? path : path.toReversed();
    return [
      ...(node >= 0 && flame ? [{ name: 'Zoom to it', run: () => flame?.zoomTo(node) }] : []),
      { name: 'All its calls as one tree', href: hrefOf({ show: 'root', root: name, of: '' }) },
      { name: 'Who calls it', href: hrefOf({ show: 'leaves', of: name }) },
      { name: 'Its neighbours', href: hrefOf({ show: 'neighbours', of: name }) },
      ...(node >= 0 && shown.show === 'root'
        ? [{ name: 'Heaviest branch from here', run: () => followHeaviest(node) }]
        : []),
      {
        name: 'Only stacks through it',
        href: hrefOf({ acts: [...shown.acts, { act: 'only', by: 'frame', name }] })
      },
      {
        name: 'Hide stacks through it',
        href: hrefOf({ acts: [...shown.acts, { act: 'hide', by: 'frame', name }] })
      },
      {
        name: 'Fold into its caller',
        href: hrefOf({ acts: [...shown.acts, { act: 'fold', by: 'frame', name }] })
      },
      ...(known.file
        ? [{ name: 'Show its lines', href: hrefOf({ show: 'lines', file: known.file, of: name }) }]
        : []),
      ...(stack.length > 0 ? [{ name: 'Copy the stack', run: () => copyText(stack.join('\n')) }] : [])
    ];
  }

  async function exportAs(format: 'folded' | 'cpuprofile' | 'svg' | 'png'): Promise<void> {
    if (!client || !opened || !view) return;
    const name = (item.name || 'profile').replace(/(?:\.(?:cpuprofile|heapprofile|folded|txt|gz))+$/, '');
    if (format === 'svg') saveText(`${name}.svg`, flameSvg(opened, view), 'image/svg+xml');
    else if (format === 'png') await savePng(`${name}.png`, flameSvg(opened, view));
    else if (format === 'folded')
      saveText(`${name}.folded.txt`, await client.service.write('folded', samples, shaping), 'text/plain');
    else
      saveText(
        `${name}.cpuprofile`,
        await client.service.write('cpuprofile', samples, shaping),
        'application/json'
      );
  }
  const exports = $derived<Action[]>([
    { name: 'Folded stacks', run: () => void exportAs('folded') },
    ...(opened?.unit === 'nanoseconds'
      ? [{ name: 'V8 CPU profile', run: () => void exportAs('cpuprofile') }]
      : []),
    ...(view && view.layout.rows > 0
      ? [
          { name: 'Picture, SVG', run: () => void exportAs('svg') },
          { name: 'Picture, PNG', run: () => void exportAs('png') }
        ]
      : [])
  ]);
  const TITLES: Record<Show, string> = {
    root: 'From the root',
    leaves: 'From the leaves',
    time: 'In time order',
    tree: 'Call tree',
    packages: 'Packages',
    neighbours: 'Neighbours',
    lines: 'Lines',
    requests: 'Requests'
  };
  const PICTURES: Partial<Record<Show, string>> = {
    root: 'Flame graph from the root',
    leaves: 'Flame graph from the leaves',
    time: 'Stacks in time order'
  };
  /** Without times there is nothing to order. */
  const shows = $derived(
    SHOWS.filter(
      (show) =>
        (show !== 'time' || (opened?.durationNs ?? 0) > 0) && (show !== 'requests' || data.during.count > 0)
    )
  );
  const folds = (kind: 'runtime' | 'dependency'): boolean =>
    shown.acts.some(({ act: what, by, name }) => what === 'fold' && by === 'kind' && name === kind);
  const toggleFold = (kind: 'runtime' | 'dependency'): string =>
    hrefOf({
      acts: folds(kind)
        ? shown.acts.filter(({ act: what, by, name }) => what !== 'fold' || by !== 'kind' || name !== kind)
        : [...shown.acts, { act: 'fold', by: 'kind', name: kind }]
    });

  const nodeMenu = (event: MouseEvent, node: number): void =>
    void (view && menu?.open(event, actionsOf(view.nodeFrame[node], node)));

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
      Looking at <b class="font-semibold text-ink"
        >{opened?.valueType === 'allocation'
          ? 'allocations'
          : opened?.unit === 'count'
            ? 'stacks'
            : 'CPU samples'}</b
      >
      of
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
      {:else if item.durationNs > 0}, all <b class="num font-semibold text-ink"
          >{formatDuration(item.durationNs)}</b
        >{#if began !== null}&nbsp;from <b class="num font-semibold text-ink"
            >{shortTime(began, data.nowMs)}</b
          >{/if}
      {/if}
    </span>
    {#if selection}<button class="ml-1 button" onclick={() => select(null, true)}>Whole profile</button>{/if}
  {/snippet}

  {#snippet reading()}
    {#if client?.error}
      <p class="text-alarm" role="alert">{client.error}</p>
    {:else if opened && view}
      {#each profileReading(opened, view, lengthNs) as sentence, i (i)}<Sentence text={sentence} />{/each}
      {#if view.sum > 0}
        <button class="button button-solid" onclick={() => followHeaviest()}
          >Follow the heaviest branch</button
        >
        {#each view.findings as finding, i (i)}
          <Finding title={finding.title} severity={finding.severity}>
            <p>{finding.sentence}</p>
            <p class="mt-1 text-ink-2">{finding.remedy}</p>
            {#snippet actions()}
              {#if finding.frame >= 0}
                {@const known = opened.frames[finding.frame]}
                <a class="button" href={hrefOf({ show: 'leaves', of: nameOf(known) })}>Who calls it</a>
                {#if known.file}<a
                    class="button"
                    href={hrefOf({ show: 'lines', file: known.file, of: nameOf(known) })}>Its lines</a
                  >{/if}
              {/if}
              <a class="button" href="/findings/{finding.rule}">The rule</a>
            {/snippet}
          </Finding>
        {/each}
        <h3 class="mt-3.5 mb-1 heading">Heaviest branch</h3>
        <ol class="num" aria-label="Heaviest branch">
          {#each branch.nodes as node, i (node)}
            {@const frame = opened.frames[view.nodeFrame[node]]}
            {#if i === BRANCH_HEAD && branch.leftOut > 0}<li class="py-0.5 text-ink-3">
                … {formatCount(branch.leftOut)} between …
              </li>{/if}
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
                  >{formatWeight(selectedWeight?.self ?? 0, opened)}</td
                ><td class="text-right">{formatShare((selectedWeight?.self ?? 0) / view.sum)}</td></tr
              >
              <tr class="border-b border-grid"
                ><th scope="row" class="py-1 text-left font-normal">total</th><td class="text-right"
                  >{formatWeight(selectedWeight?.total ?? 0, opened)}</td
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
          <div class="mt-2 flex flex-wrap gap-1.5">
            {#each actionsOf(selectedFrame, selected) as { name, href, run } (name)}
              {#if href}<a class="button" {href}>{name}</a>{:else}<button class="button" onclick={run}
                  >{name}</button
                >{/if}
            {/each}
          </div>
        </section>
      {/if}
      {#each opened.warnings as warning, i (i)}
        <p class="mt-2 text-[11px] text-ink-3">{formatCount(warning.count)}×: {warning.message}</p>
      {/each}
    {:else}
      <p class="text-ink-3">Reading the samples…</p>
    {/if}
  {/snippet}

  {#if client?.error}
    <Empty title="This profile cannot be shown">
      <p>{client.error}</p>
      <a class="button" href={viewLink('/profiles')}>Other profiles</a>
    </Empty>
  {:else if opened && view}
    <div
      class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1.5 whitespace-nowrap text-ink-2"
    >
      <Choices
        label=""
        choices={shows.map((show) => ({ key: show, name: TITLES[show], href: hrefOf({ show }) }))}
        value={shown.show}
      />
      <span class="ml-auto text-[11px]"
        >{#if found}{plural(found.size, 'function')}, {formatShare(foundShare)} of the {wholeName(opened)} selected
          ·
        {/if}{plural(view.samples, sampleName(opened))}{#if ['root', 'leaves'].includes(view.show)}{DOT}darker
          = more
          <u>self</u>{opened.unit === 'nanoseconds' ? ' time' : ''}{/if}{#if view.thinned}{DOT}thinned to
          pixels: zoom in{/if}{#if view.show === 'leaves' && view.unopened > 0}{DOT}
          {formatShare(view.unopened / (view.sum || 1))} too light to open{/if}</span
      >
    </div>
    <div
      class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1 text-[11px] text-ink-2"
    >
      {#if opened.threads.length > 1}
        <label
          >thread <select
            class="field py-0.5"
            value={String(shown.thread)}
            onchange={(event) => void go({ thread: Number(event.currentTarget.value) })}
          >
            <option value="-1">all</option>
            {#each opened.threads as name, thread (thread)}<option value={String(thread)}>{name}</option
              >{/each}
          </select></label
        >
      {/if}
      <span>fold</span>
      <a
        class="toggle"
        aria-pressed={folds('runtime')}
        role="button"
        aria-label="Fold the runtime"
        href={toggleFold('runtime')}>runtime</a
      >
      <a
        class="toggle"
        aria-pressed={folds('dependency')}
        role="button"
        aria-label="Fold dependencies"
        href={toggleFold('dependency')}>dependencies</a
      >
      <a
        class="toggle"
        aria-pressed={shown.foldRecursion}
        role="button"
        aria-label="Fold recursion"
        href={hrefOf({ foldRecursion: !shown.foldRecursion })}>recursion</a
      >
      {#if opened.durationNs > 0}<span>count</span>
        <a
          class="toggle"
          aria-pressed={shown.idle}
          role="button"
          aria-label="Count idle samples"
          href={hrefOf({ idle: !shown.idle })}>idle</a
        >{/if}
      {#if shown.during}<span class="chip"
          >during {shown.during}<a
            href={hrefOf({ during: '' })}
            aria-label="Take back: during the requests of one endpoint">×</a
          ></span
        >{/if}
      {#if shown.root}<span class="chip"
          >all calls of {opened.frames[index.get(shown.root) ?? -1]?.name ??
            'a function this profile does not have'}<a
            href={hrefOf({ root: '' })}
            aria-label="Take back: all calls as one tree">×</a
          ></span
        >{/if}
      {#if shown.of && (shown.show === 'leaves' || shown.show === 'neighbours')}<span class="chip"
          >{shown.show === 'leaves' ? 'callers of' : 'neighbours of'}
          {opened.frames[asked]?.name ?? 'a function this profile does not have'}<a
            href={hrefOf({ of: '' })}
            aria-label="Take back: of one function">×</a
          ></span
        >{/if}
      {#each data.together.slice(1) as one (one.id)}<span class="chip"
          >with {one.service || one.name}<a
            href={togetherHref(added.filter((id) => id !== one.id))}
            aria-label="Take back: together with {one.name || one.service}">×</a
          ></span
        >{/each}
      {#each shown.acts as named, i (i)}
        {#if named.by !== 'kind' || named.act !== 'fold' || !['runtime', 'dependency'].includes(named.name)}
          <span class="chip"
            >{actWords(named)}<a
              href={hrefOf({ acts: shown.acts.filter((_, at) => at !== i) })}
              aria-label="Take back: {actWords(named)}">×</a
            ></span
          >
        {/if}
      {/each}
      <span class="ml-auto flex items-center gap-2">
        <input
          class="w-36 field py-0.5"
          placeholder="Search functions"
          aria-label="Search functions"
          bind:this={searchField}
          bind:value={search}
          onkeydown={(event) => event.key === 'Escape' && (search = '')}
        />
        {#if openTogether.length > 0}<button
            class="button"
            aria-haspopup="menu"
            title="Open another file together with this: each becomes a thread"
            onclick={(event) => menu?.open(event, openTogether)}>Add a file</button
          >{/if}
        <button class="button" aria-haspopup="menu" onclick={(event) => menu?.open(event, exports)}
          >Export</button
        >
      </span>
    </div>
    {#if opened.durationNs > 0}<CpuStrip
        strip={opened.strip}
        durationNs={opened.durationNs}
        {selection}
        onselect={select}
      />{/if}
    {#if view.show === 'tree'}
      <CallTree {opened} {view} {found} bind:selected onmenu={nodeMenu} />
    {:else if view.show === 'packages'}
      <Packages {opened} {view} origins={client?.origins ?? null} onact={act} />
    {:else if view.show === 'neighbours'}
      <Neighbours {opened} {view} onopen={(frame) => void go({ of: nameOf(opened.frames[frame]) })} />
    {:else if view.show === 'requests' && client && began !== null}
      <DuringRequests
        during={data.during}
        {client}
        beganMs={began}
        {selection}
        onendpoint={(endpoint) => void go({ show: 'root', during: endpoint })}
        hrefAt={(cut) => hrefOf({ show: 'root', cut, during: '' })}
      />
    {:else if view.show === 'lines' && client}
      {#await linesView() then { default: Lines }}
        <Lines
          {opened}
          {view}
          {client}
          hasSources={data.hasSources}
          line={opened.frames[asked]?.file === view.file ? (opened.frames[asked]?.line ?? 0) : 0}
          onfile={(file) => void go({ file, of: '' })}
        />
      {/await}
    {:else}
      <FlameGraph
        bind:this={flame}
        {opened}
        {view}
        {found}
        title={PICTURES[view.show] ?? ''}
        format={(weight) => formatWeight(weight, opened)}
        whole={wholeName(opened)}
        bind:selected
        onmenu={nodeMenu}
        onzoom={(part, width) => {
          zoom = part;
          pixels = width;
        }}
      />
    {/if}
    {#if !['packages', 'lines', 'requests'].includes(view.show)}
      <div class="h-[36%] min-h-36 border-t border-rule bg-sheet">
        <FunctionTable
          {opened}
          functions={view.functions}
          sum={view.sum}
          {found}
          selected={selectedFrame}
          onselect={selectFunction}
          onmenu={(event, frame) => void menu?.open(event, actionsOf(frame, -1))}
        />
      </div>
    {/if}
    <ActionMenu bind:this={menu} />
  {:else}
    <div class="grid h-full place-items-center text-ink-3" role="status">
      Reading the samples of {formatDuration(item.durationNs)}…
    </div>
  {/if}
</Page>
