<script lang="ts">
  import { untrack } from 'svelte';
  import { page } from '$app/state';
  import { formatWeight, wholeName } from '@tromix/core/profile/units';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import Opening from '$lib/ui/kit/Opening.svelte';
  import CountersBelow from '$lib/ui/hosts/CountersBelow.svelte';
  import CallTree from '$lib/ui/profile/CallTree.svelte';
  import CpuStrip from '$lib/ui/profile/CpuStrip.svelte';
  import DuringRequests from '$lib/ui/profile/DuringRequests.svelte';
  import FlameGraph from '$lib/ui/profile/FlameGraph.svelte';
  import type { Zoom } from '$lib/ui/profile/flame-view';
  import { functionOffer } from '$lib/ui/profile/function-offer';
  import { frameActions, stackOf } from '$lib/ui/profile/frame-actions';
  import FunctionTable from '$lib/ui/profile/FunctionTable.svelte';
  import Neighbours from '$lib/ui/profile/Neighbours.svelte';
  import Packages from '$lib/ui/profile/Packages.svelte';
  import { profileExports } from '$lib/ui/profile/profile-exports';
  import { openTogether, partsOf, togetherHref } from '$lib/ui/profile/profile-files';
  import { ProfileScreen } from '$lib/ui/profile/profile-screen.svelte';
  import {
    nameOf,
    PROFILE_PARAMS,
    type Cut,
    type NamedAct,
    type ProfileState
  } from '$lib/ui/profile/profile-state';
  import ProfileReading from '$lib/ui/profile/ProfileReading.svelte';
  import ProfileScope from '$lib/ui/profile/ProfileScope.svelte';
  import ProfileTools from '$lib/ui/profile/ProfileTools.svelte';
  import { PICTURE_NAMES, SHOWS } from '$lib/ui/profile/shows';
  import { pairLink, viewLink } from '$lib/ui/shell/links';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import { evidenceName } from '$lib/ui/compare/evidence-name';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const item = $derived(data.profile);
  pinnable(() => ({
    kind: shown.show === 'lines' ? 'line' : 'profile',
    title: evidenceName(item),
    files: [item.id],
    ...(opened &&
      view &&
      screen.selectedFrame >= 0 &&
      functionOffer(opened, view, screen.selectedFrame, stackOf(opened, view, shown, screen.selected)))
  }));

  let flame = $state<ReturnType<typeof FlameGraph> | null>(null);
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  let searchField = $state<HTMLInputElement | null>(null);
  const address = urlState(PROFILE_PARAMS, (): Partial<ProfileState> => ({
    find: search,
    chosen: chosenName,
    zoom
  }));
  const { shown } = $derived(address);
  /** A link may ask for functions by name. */
  let search: string = $derived(shown.find);
  let zoom: Zoom = $derived(shown.zoom);

  /** The files, as long as they are the same: live updates hand over new `data` again and again, and nothing is read anew for that. */
  const files = $derived(data.together.map(({ id }) => id).join(' '));
  const parts = $derived.by(() => {
    void files;
    return untrack(() => partsOf(data.together, item.startedAtUs));
  });
  const added = $derived(data.together.slice(1));
  const without = (id: string): string =>
    togetherHref(
      page.url,
      added.map((file) => file.id).filter((one) => one !== id)
    );
  /** What the time rail selects, where it meets the profile. */
  const onRail = $derived.by((): Cut | null => {
    const { from, to } = data.scope;
    if (from === undefined || to === undefined || item.startedAtUs === null || !opened?.durationNs)
      return null;
    const nsAt = (ms: number): number => (ms * 1000 - item.startedAtUs!) * 1000;
    const cut = { from: Math.max(0, nsAt(from)), to: Math.min(item.durationNs, nsAt(to)) };
    return cut.to > cut.from ? cut : null;
  });
  const screen = new ProfileScreen({
    get parts() {
      return parts;
    },
    get hasSources() {
      return data.hasSources;
    },
    get shown() {
      return shown;
    },
    get durationNs() {
      return item.durationNs;
    },
    get during() {
      return data.during;
    },
    get onRail() {
      return onRail;
    },
    get search() {
      return search;
    },
    get zoom() {
      return zoom;
    }
  });
  const { client, opened, view, found, selection } = $derived(screen);
  /** By its name: numbers of functions belong to one reading of the file. */
  const chosenName = $derived(
    opened && screen.selectedFrame >= 0 ? nameOf(opened.frames[screen.selectedFrame]) : shown.chosen
  );
  noteChosen(address);
  /** What a link chose is chosen once the picture is there. */
  $effect(() => {
    if (!view) return;
    const frame = untrack(() => (screen.selectedFrame < 0 ? screen.index.get(shown.chosen) : undefined));
    if (frame !== undefined) untrack(() => flame?.show(screen.selectFunction(frame), true));
  });

  const followHeaviest = (from = -1): void => flame?.show(screen.selectHeaviest(from));
  screenKeys([
    { keys: '↑ ↓ ← →', does: 'in the picture: caller, callee, neighbours' },
    { keys: 'Enter · 0', does: 'zoom to the frame, show all' },
    { keys: '+ − · Shift ← →', does: 'zoom, pan' },
    { keys: 'Ctrl wheel · drag', does: 'zoom, pan' },
    { keys: 'h', does: 'follow the heaviest branch', run: () => followHeaviest() },
    { keys: 's', does: 'search functions', run: () => searchField?.focus() },
    { keys: '← → · Esc', does: 'on the CPU strip: move, clear the selection' }
  ]);

  function cut(next: Cut | null, done: boolean): void {
    screen.dragged = next;
    if (done) void address.go({ cut: next }).then(() => (screen.dragged = null));
  }
  const act = (named: NamedAct): Promise<void> => address.go({ acts: [...shown.acts, named] });
  function selectFunction(frame: number): void {
    if (opened && shown.show === 'neighbours') void address.go({ of: nameOf(opened.frames[frame]) });
    flame?.show(screen.selectFunction(frame));
  }
  function selectNode(node: number): void {
    screen.selected = node;
    flame?.show(node);
  }
  function actionsOf(frame: number, node: number): Action[] {
    if (!opened || !view) return [];
    const zoomTo = flame && ((at: number): void => flame?.zoomTo(at));
    return frameActions({ opened, view, shown, href: address.href, zoomTo, followHeaviest }, frame, node);
  }
  const nodeMenu = (event: MouseEvent, node: number): void =>
    void (view && menu?.open(event, actionsOf(view.nodeFrame[node], node)));

  /** The editor it is drawn with is large, and loaded only for this view. */
  const linesView = () => import('$lib/ui/profile/Lines.svelte');
  /** Without times there is nothing to order. */
  const shows = $derived(
    SHOWS.filter(
      (show) =>
        (show !== 'time' || (opened?.durationNs ?? 0) > 0) &&
        (show !== 'requests' || (data.during.count > 0 && (opened?.durationNs ?? 0) > 0))
    )
  );
</script>

<Page>
  {#snippet scope()}
    <ProfileScope {item} {opened} {selection} nowMs={data.nowMs} onwhole={() => cut(null, true)} />
  {/snippet}

  {#snippet reading()}
    <ProfileReading
      {screen}
      href={address.href}
      {actionsOf}
      onselect={selectNode}
      onheaviest={() => followHeaviest()}
    />
  {/snippet}

  {#if client && opened && view && !screen.error}
    <ProfileTools
      {screen}
      {shown}
      {shows}
      added={added.map(({ id, service, name }) => ({ name: service || name, without: without(id) }))}
      openTogether={openTogether(
        page.url,
        added.map(({ id }) => id),
        data.others,
        data.nowMs
      )}
      exports={profileExports(screen, item.name, item.startedAtUs)}
      compareHref={pairLink('profiles', { after: item.id })}
      bind:search
      bind:searchField
      href={address.href}
      go={address.go}
    />
    {#if opened.durationNs > 0}<CpuStrip
        strip={opened.strip}
        durationNs={opened.durationNs}
        {selection}
        onselect={cut}
      />{/if}
    {#if opened.durationNs > 0 && item.startedAtUs !== null && item.host}
      <div class="max-h-[40%] flex-none overflow-y-auto border-b border-rule bg-sheet">
        <CountersBelow
          of={[{ host: item.host, pid: item.pid, service: item.service }]}
          fromMs={item.startedAtUs / 1000}
          toMs={item.startedAtUs / 1000 + opened.durationNs / 1e6}
          left={0}
          right={0}
        />
      </div>
    {/if}
    {#if view.show === 'tree'}
      <CallTree {opened} {view} {found} bind:selected={screen.selected} onmenu={nodeMenu} />
    {:else if view.show === 'packages'}
      <Packages {opened} {view} origins={client.origins} onact={act} />
    {:else if view.show === 'neighbours'}
      <Neighbours {opened} {view} onopen={(frame) => void address.go({ of: nameOf(opened.frames[frame]) })} />
    {:else if view.show === 'requests' && item.startedAtUs !== null}
      <DuringRequests
        during={data.during}
        {client}
        beganMs={item.startedAtUs / 1000}
        {selection}
        onendpoint={(endpoint) => void address.go({ show: 'root', during: endpoint })}
        hrefAt={(part) => address.href({ show: 'root', cut: part, during: '' })}
      />
    {:else if view.show === 'lines'}
      {#await linesView() then { default: Lines }}
        {@const asked = opened.frames[screen.asked]}
        <Lines
          {opened}
          {view}
          {client}
          hasSources={data.hasSources}
          line={asked?.file === view.file ? asked.line : 0}
          onfile={(file) => void address.go({ file, of: '' })}
        />
      {/await}
    {:else}
      <FlameGraph
        bind:this={flame}
        {opened}
        {view}
        {found}
        title={PICTURE_NAMES[view.show] ?? ''}
        format={(weight) => formatWeight(weight, opened)}
        whole={wholeName(opened)}
        bind:selected={screen.selected}
        onmenu={nodeMenu}
        bind:zoom
        onwidth={(width) => (screen.pixels = width)}
      />
    {/if}
    {#if !['packages', 'lines', 'requests'].includes(view.show)}
      <div class="h-[36%] min-h-36 border-t border-rule bg-sheet">
        <FunctionTable
          {opened}
          functions={view.functions}
          sum={view.sum}
          {found}
          selected={screen.selectedFrame}
          onselect={selectFunction}
          onmenu={(event, frame) => void menu?.open(event, actionsOf(frame, -1))}
        />
      </div>
    {/if}
    <ActionMenu bind:this={menu} />
  {:else}
    <Opening what="profile" failed={screen.error}>
      {#snippet others()}<a class="button" href={viewLink('/profiles')}>Other profiles</a>{/snippet}
    </Opening>
  {/if}
</Page>
