<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import { formatWeight, wholeName } from '@tromix/core/profile/units';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import Divider from '$lib/ui/kit/Divider.svelte';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import CallTree from './CallTree.svelte';
  import FlameGraph from './FlameGraph.svelte';
  import type { Zoom } from './flame-view';
  import { frameActions } from './frame-actions';
  import FunctionTable from './FunctionTable.svelte';
  import Neighbours from './Neighbours.svelte';
  import { lineInsideLink } from '$lib/ui/recorder/observe-link';
  import Packages from './Packages.svelte';
  import type { ProfileScreen } from './profile-screen.svelte';
  import { nameOf, type NamedAct, type ProfileState } from './profile-state';
  import ProfileTools from './ProfileTools.svelte';
  import { PICTURE_NAMES, type Show } from './shows';

  /** The pictures and tables of an open profile, with their tools: the same for one recording and for the sum of many. */
  interface Props {
    screen: ProfileScreen;
    shown: ProfileState;
    href: (change: Partial<ProfileState>) => string;
    go: (change: Partial<ProfileState>) => Promise<void>;
    hasSources: boolean;
    shows: readonly Show[];
    exports: Action[];
    /** Where it is held against another; '' where it cannot be. */
    compareHref: string;
    /** Files opened together with the first, each with the address without it. */
    added?: { name: string; without: string }[];
    openTogether?: Action[];
    /** How many requests its weights are of; 0 where that is not known. */
    requests?: number;
    /** Requests that ran while it was recorded, for calls that were counted. */
    served?: number;
    /** What runs it, as far as it is known. */
    process: { service: string; pid?: number };
    /** More that can be done with a function. */
    moreActions?: (frame: number) => Action[];
    /** Text that is searched for, and the part of the picture in view. */
    search: string;
    zoom: Zoom;
    /** What stands above the picture. */
    above?: Snippet;
    /** A view of its own that is no picture of the profile, and when it is shown. */
    other?: Snippet;
    isOther?: boolean;
  }
  let {
    screen,
    process,
    shown,
    href,
    go,
    hasSources,
    shows,
    exports,
    compareHref,
    added = [],
    openTogether = [],
    requests = 0,
    served = 0,
    moreActions = () => [],
    search = $bindable(),
    zoom = $bindable(),
    above,
    other,
    isOther = false
  }: Props = $props();

  let flame = $state<ReturnType<typeof FlameGraph> | null>(null);
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  let searchField = $state<HTMLInputElement | null>(null);
  const { client, opened, view, found } = $derived(screen);

  /** What a link chose is chosen once the picture is there. */
  $effect(() => {
    if (!view) return;
    const frame = untrack(() => (screen.selectedFrame < 0 ? screen.index.get(shown.chosen) : undefined));
    if (frame !== undefined) untrack(() => flame?.show(screen.selectFunction(frame), true));
  });
  export const followHeaviest = (from = -1): void => flame?.show(screen.selectHeaviest(from));
  screenKeys([
    { keys: '↑ ↓ ← →', does: 'in the picture: caller, callee, neighbours' },
    { keys: 'Enter · 0', does: 'zoom to the frame, show all' },
    { keys: '+ − · Shift ← →', does: 'zoom, pan' },
    { keys: 'Ctrl wheel · drag', does: 'zoom, pan' },
    { keys: 'h', does: 'follow the heaviest branch', run: () => followHeaviest() },
    { keys: 's', does: 'search functions', run: () => searchField?.focus() },
    { keys: '← → · Esc', does: 'on the CPU strip: move, clear the selection' }
  ]);

  const act = (named: NamedAct): Promise<void> => go({ acts: [...shown.acts, named] });
  export function selectFunction(frame: number): void {
    if (opened && (shown.show === 'neighbours' || shown.show === 'over'))
      void go({ of: nameOf(opened.frames[frame]) });
    flame?.show(screen.selectFunction(frame));
  }
  export function selectNode(node: number): void {
    screen.selected = node;
    flame?.show(node);
  }
  export function actionsOf(frame: number, node: number): Action[] {
    if (!opened || !view) return [];
    const zoomTo = flame && ((at: number): void => flame?.zoomTo(at));
    return [
      ...frameActions({ opened, view, shown, href, zoomTo, followHeaviest }, frame, node),
      ...moreActions(frame)
    ];
  }
  const nodeMenu = (event: MouseEvent, node: number): void =>
    void (view && menu?.open(event, actionsOf(view.nodeFrame[node], node)));

  /** The editor it is drawn with is large, and loaded only for this view. */
  const linesView = () => import('./Lines.svelte');
</script>

{#if client && opened && view}
  <ProfileTools
    {screen}
    {shown}
    {shows}
    {added}
    {openTogether}
    {exports}
    {compareHref}
    bind:search
    bind:searchField
    {href}
    {go}
  />
  {@render above?.()}
  {#if isOther}
    {@render other?.()}
  {:else if view.show === 'tree'}
    <CallTree {opened} {view} {found} bind:selected={screen.selected} onmenu={nodeMenu} />
  {:else if view.show === 'packages'}
    <Packages {opened} {view} origins={client.origins} onact={act} />
  {:else if view.show === 'neighbours'}
    <Neighbours {opened} {view} onopen={(frame) => void go({ of: nameOf(opened.frames[frame]) })} />
  {:else if view.show === 'lines'}
    {#await linesView() then { default: Lines }}
      {@const asked = opened.frames[screen.asked]}
      <Lines
        {opened}
        {view}
        {client}
        {hasSources}
        line={asked?.file === view.file ? asked.line : 0}
        onfile={(file) => void go({ file, of: '' })}
        insideOf={(place) => (opened.recorded ? '' : lineInsideLink(place, process))}
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
    <Divider
      label="Height of the table"
      percent={preferences.tableBelow}
      onmove={(percent) => preferences.setTableBelow(percent)}
    />
    <div class="min-h-24 flex-none bg-sheet" style:height="{preferences.tableBelow}%">
      <FunctionTable
        {opened}
        functions={view.functions}
        sum={view.sum}
        {requests}
        {served}
        {found}
        selected={screen.selectedFrame}
        onselect={selectFunction}
        onmenu={(event, frame) => void menu?.open(event, actionsOf(frame, -1))}
      />
    </div>
  {/if}
  <ActionMenu bind:this={menu} />
{/if}
