<script lang="ts">
  import { untrack } from 'svelte';
  import { page } from '$app/state';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import Opening from '$lib/ui/kit/Opening.svelte';
  import CountersBelow from '$lib/ui/hosts/CountersBelow.svelte';
  import CpuStrip from '$lib/ui/profile/CpuStrip.svelte';
  import DuringRequests from '$lib/ui/profile/DuringRequests.svelte';
  import type { Zoom } from '$lib/ui/profile/flame-view';
  import { functionOffer } from '$lib/ui/profile/function-offer';
  import { stackOf } from '$lib/ui/profile/frame-actions';
  import { profileExports } from '$lib/ui/profile/profile-exports';
  import { openTogether, partsOf, togetherHref } from '$lib/ui/profile/profile-files';
  import { ProfileScreen } from '$lib/ui/profile/profile-screen.svelte';
  import { nameOf, PROFILE_PARAMS, type Cut, type ProfileState } from '$lib/ui/profile/profile-state';
  import ProfileReading from '$lib/ui/profile/ProfileReading.svelte';
  import ProfileScope from '$lib/ui/profile/ProfileScope.svelte';
  import ProfileStage from '$lib/ui/profile/ProfileStage.svelte';
  import { SHOWS } from '$lib/ui/profile/shows';
  import type { Action } from '$lib/ui/kit/actions';
  import { observeLink } from '$lib/ui/recorder/observe-link';
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

  let stage = $state<ReturnType<typeof ProfileStage> | null>(null);
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
  const measure = $derived(shown.measure);
  const source = $derived.by(() => {
    void files;
    void measure;
    return untrack(() => ({
      parts: partsOf(data.together, item.startedAtUs),
      measure,
      hasSources: data.hasSources
    }));
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
    get source() {
      return source;
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
  const { client, opened, view, selection } = $derived(screen);
  /** By its name: numbers of functions belong to one reading of the file. */
  const chosenName = $derived(
    opened && screen.selectedFrame >= 0 ? nameOf(opened.frames[screen.selectedFrame]) : shown.chosen
  );
  noteChosen(address);
  /** From a function to its calls in a process that runs it now. */
  const moreActions = (frame: number): Action[] => {
    if (!opened || item.pid === 0) return [];
    const href = observeLink((opened.recorded ?? opened.frames)[frame], item);
    return href ? [{ name: 'Look at its calls from inside', href }] : [];
  };
  function cut(next: Cut | null, done: boolean): void {
    screen.dragged = next;
    if (done) void address.go({ cut: next }).then(() => (screen.dragged = null));
  }
  /** Without times there is nothing to order. */
  const shows = $derived(
    SHOWS.filter(
      (show) =>
        show !== 'over' &&
        (show !== 'time' || (opened?.durationNs ?? 0) > 0) &&
        (show !== 'requests' || (data.during.count > 0 && (opened?.durationNs ?? 0) > 0))
    )
  );
</script>

{#snippet above()}
  {#if opened && opened.durationNs > 0}
    <CpuStrip strip={opened.strip} durationNs={opened.durationNs} {selection} onselect={cut} />
    {#if item.startedAtUs !== null && item.host}
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
  {/if}
{/snippet}

{#snippet other()}
  {#if client && item.startedAtUs !== null}
    <DuringRequests
      during={data.during}
      {client}
      beganMs={item.startedAtUs / 1000}
      {selection}
      frame={screen.selectedFrame >= 0 ? screen.selectedFrame : (screen.index.get(shown.chosen) ?? -1)}
      frameName={chosenName.split(' ')[0]}
      onendpoint={(endpoint) => void address.go({ show: 'root', during: endpoint })}
      hrefAt={(part) => address.href({ show: 'root', cut: part, during: '' })}
    />
  {/if}
{/snippet}

<Page>
  {#snippet scope()}
    <ProfileScope {item} {opened} {selection} nowMs={data.nowMs} onwhole={() => cut(null, true)} />
  {/snippet}

  {#snippet reading()}
    <ProfileReading
      {screen}
      href={address.href}
      actionsOf={(frame, node) => stage?.actionsOf(frame, node) ?? []}
      onselect={(node) => stage?.selectNode(node)}
      onheaviest={() => stage?.followHeaviest()}
    />
  {/snippet}

  {#if client && opened && view && !screen.error}
    <ProfileStage
      process={item}
      bind:this={stage}
      {screen}
      {shown}
      href={address.href}
      go={address.go}
      hasSources={data.hasSources}
      {shows}
      added={added.map(({ id, service, name }) => ({ name: service || name, without: without(id) }))}
      openTogether={openTogether(
        page.url,
        added.map(({ id }) => id),
        data.others,
        data.nowMs
      )}
      exports={profileExports(screen, item.name, item.startedAtUs)}
      served={data.during.count}
      {moreActions}
      compareHref={pairLink('profiles', { after: item.id })}
      bind:search
      bind:zoom
      {above}
      {other}
      isOther={view.show === 'requests' && item.startedAtUs !== null}
    />
  {:else}
    <Opening what="profile" failed={screen.error}>
      {#snippet others()}<a class="button" href={viewLink('/profiles')}>Other profiles</a>{/snippet}
    </Opening>
  {/if}
</Page>
