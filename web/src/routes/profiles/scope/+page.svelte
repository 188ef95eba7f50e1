<script lang="ts">
  import { untrack } from 'svelte';
  import { formatCount, plural } from '@tromix/core/text/format';
  import { inScope } from '$lib/evidence/in-scope';
  import { scopeQuery } from '$lib/scope';
  import NewestEvidence from '$lib/ui/evidence/NewestEvidence.svelte';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Opening from '$lib/ui/kit/Opening.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import { evidenceName } from '$lib/ui/compare/evidence-name';
  import type { Zoom } from '$lib/ui/profile/flame-view';
  import FunctionOverTime from '$lib/ui/profile/FunctionOverTime.svelte';
  import { functionOffer } from '$lib/ui/profile/function-offer';
  import { stackOf } from '$lib/ui/profile/frame-actions';
  import { profileExports } from '$lib/ui/profile/profile-exports';
  import ProfileReading from '$lib/ui/profile/ProfileReading.svelte';
  import { ProfileScreen } from '$lib/ui/profile/profile-screen.svelte';
  import ProfileStage from '$lib/ui/profile/ProfileStage.svelte';
  import { nameOf, PROFILE_PARAMS, type ProfileState } from '$lib/ui/profile/profile-state';
  import { SHOWS } from '$lib/ui/profile/shows';
  import SinceRelease from '$lib/ui/profile/SinceRelease.svelte';
  import { sumsReading } from '$lib/ui/profile/sums-reading';
  import { sumsUrl } from '$lib/ui/profile/sums-url';
  import { observeLink } from '$lib/ui/recorder/observe-link';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const of = $derived(data.scope);
  const { endpoint, service } = $derived(of);

  let stage = $state<ReturnType<typeof ProfileStage> | null>(null);
  const address = urlState(PROFILE_PARAMS, (): Partial<ProfileState> => ({
    find: search,
    chosen: chosenName,
    zoom
  }));
  const { shown } = $derived(address);
  let search: string = $derived(shown.find);
  let zoom: Zoom = $derived(shown.zoom);

  /** What there was when it was opened: recordings that come meanwhile are shown when asked for, since each would draw the picture anew. */
  const asked = $derived(scopeQuery(of));
  const measure = $derived(shown.measure);
  let again = $state(0);
  const opening = $derived.by(() => {
    void asked;
    void measure;
    void again;
    return untrack(() => ({
      slices: data.inScope.slices,
      source: { sums: sumsUrl(of, data.window, {}, measure), hasSources: data.hasSources }
    }));
  });
  const source = $derived(opening.source);
  const fresh = $derived(data.inScope.slices - opening.slices);
  const screen = new ProfileScreen({
    get source() {
      return source;
    },
    get shown() {
      return shown;
    },
    durationNs: 0,
    during: { count: 0, requests: [] },
    onRail: null,
    get search() {
      return search;
    },
    get zoom() {
      return zoom;
    }
  });
  const { client, opened, view } = $derived(screen);
  const sums = $derived(client?.sums ?? null);
  const requests = $derived(endpoint && sums ? sums.sums.requests : 0);
  const chosenName = $derived(
    opened && screen.selectedFrame >= 0 ? nameOf(opened.frames[screen.selectedFrame]) : shown.chosen
  );
  noteChosen(address);
  pinnable(() => ({
    kind: 'profile',
    title: endpoint || service || 'All recordings',
    ...(opened &&
      view &&
      screen.selectedFrame >= 0 &&
      functionOffer(opened, view, screen.selectedFrame, stackOf(opened, view, shown, screen.selected)))
  }));

  const shows = SHOWS.filter((show) => show !== 'time' && show !== 'requests');
  /** The function that is looked at over time: the one asked for, or the heaviest there is. */
  const over = $derived.by(() => {
    if (!opened || !view) return -1;
    if (screen.asked >= 0) return screen.asked;
    const top = view.functions.find(({ frame }) => opened.frames[frame].kind === 'app') ?? view.functions[0];
    return top?.frame ?? -1;
  });
  const moreActions = (frame: number): Action[] =>
    opened
      ? [
          {
            name: 'Over time and releases',
            href: address.href({ show: 'over', of: nameOf(opened.frames[frame]) })
          },
          ...(inside(frame) ? [{ name: 'Look at its calls from inside', href: inside(frame) }] : [])
        ]
      : [];
  const inside = (frame: number): string =>
    opened ? observeLink((opened.recorded ?? opened.frames)[frame], { service }) : '';
  const recordings = $derived(
    data.profiles.filter((item) => item.service !== '' && inScope(item, of, data.window)).slice(0, 8)
  );
  const toRecording = (id: string): string =>
    viewLink(
      `/profiles/${id}`,
      {},
      // With a function: the very requests it costs.
      chosenName ? { show: 'requests', at: chosenName } : endpoint ? { during: endpoint } : {}
    );
</script>

{#snippet found()}<SinceRelease found={sums?.sinceRelease ?? []} href={address.href} />{/snippet}

{#snippet over_()}
  {#if client && sums && over >= 0}
    <FunctionOverTime
      {client}
      {sums}
      frame={over}
      name={nameOf(sums.frames[over])}
      ofEndpoint={endpoint !== ''}
    />
  {/if}
{/snippet}

{#snippet above()}
  {#if fresh > 0}
    <p class="flex flex-none items-center gap-2 border-b border-rule bg-pen-soft px-4 py-1" role="status">
      More was recorded since.
      <button class="button px-1.5 py-[2px]" onclick={() => again++}>Add it</button>
    </p>
  {/if}
{/snippet}

<Page>
  {#snippet scope()}
    <ScopeLine
      which={['endpoint', 'service', 'host', 'release', 'time', 'run']}
      window={data.window}
      lead="Looking at all recordings of"
    />
  {/snippet}
  {#snippet reading()}
    {#if data.inScope.slices === 0}
      <p>Nothing was recorded here.</p>
    {:else if sums && sums.sums.busyUs === 0}
      <p>
        {plural(sums.sums.processes, 'process')}
        {sums.sums.processes === 1 ? 'was' : 'were'} recorded, and computed nothing here.
      </p>
    {:else}
      <ProfileReading
        {screen}
        href={address.href}
        actionsOf={(frame, node) => stage?.actionsOf(frame, node) ?? []}
        onselect={(node) => stage?.selectNode(node)}
        onheaviest={() => stage?.followHeaviest()}
        begin={sums ? sumsReading(sums, endpoint) : []}
        more={found}
      />
      {#if endpoint && sums && view}
        <p class="mt-2 flex flex-wrap gap-1.5">
          <a class="button" href={viewLink('/requests')}>Its requests</a>
          <a class="button" href={viewLink('/endpoint')}>The endpoint</a>
        </p>
      {/if}
      {#if recordings.length > 0 && (view || screen.error)}
        <h3 class="mt-3 mb-1 heading">Recordings with all their samples</h3>
        {#each recordings as item (item.id)}
          <a
            class="grid grid-cols-[1fr_auto] gap-2 border-b border-grid py-0.5 hover:bg-pen-soft"
            href={toRecording(item.id)}
            ><span class="truncate">{evidenceName(item)}</span><span class="num text-ink-3"
              >{item.startedAtUs === null ? '' : shortTime(item.startedAtUs / 1000, data.nowMs)}</span
            ></a
          >
        {/each}
      {/if}
    {/if}
  {/snippet}

  {#if data.inScope.slices === 0}
    <Empty title="No recording in this scope">
      <p>
        {endpoint
          ? 'Requests of this endpoint were not recorded in this time. Record their process while they run, or choose another time.'
          : 'Record a process, or send profiles with their service and start: they add up here, by endpoint where their requests are known.'}
      </p>
      <p class="flex gap-2">
        <a class="button button-solid" href="/recorder">Record a process</a>
        <NewestEvidence items={data.profiles.filter((item) => !service || item.service === service)} />
      </p>
    </Empty>
  {:else if client && opened && view && !screen.error}
    {#if view.sum === 0 && sums?.sums.busyUs === 0}
      <Empty title="Nothing was computed here">
        <p>
          {formatCount(data.inScope.slices)} pieces of recordings lie in this scope, and all of them are idle.
        </p>
      </Empty>
    {:else}
      <ProfileStage
        process={{ service }}
        bind:this={stage}
        {screen}
        {shown}
        href={address.href}
        go={address.go}
        hasSources={data.hasSources}
        {shows}
        exports={profileExports(screen, endpoint || service, null)}
        compareHref=""
        {requests}
        {moreActions}
        bind:search
        bind:zoom
        {above}
        other={over_}
        isOther={view.show === 'over'}
      />
    {/if}
  {:else}
    <Opening what="sum" failed={screen.error}>
      {#snippet others()}<a class="button" href={viewLink('/profiles')}>Single recordings</a>{/snippet}
    </Opening>
  {/if}
</Page>
