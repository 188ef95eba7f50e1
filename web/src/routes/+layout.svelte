<script lang="ts">
  import '../app.css';
  import { goto, invalidate } from '$app/navigation';
  import { navigating, page } from '$app/state';
  import { toast, Toaster } from 'svelte-sonner';
  import { untrack, type Snippet } from 'svelte';
  import { goToList } from '$lib/ui/frame/lists';
  import { onKeys } from '$lib/ui/frame/keys.svelte';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import TimeRail from '$lib/ui/rail/TimeRail.svelte';
  import DrawFailed from '$lib/ui/shell/DrawFailed.svelte';
  import KeysDialog from '$lib/ui/shell/KeysDialog.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { briefHere, pinHere } from '$lib/ui/cases/pins.svelte';
  import BriefDialog from '$lib/ui/cases/BriefDialog.svelte';
  import PinDialog from '$lib/ui/cases/PinDialog.svelte';
  import BoardDialog from '$lib/ui/watch/BoardDialog.svelte';
  import BrowserNotices from '$lib/ui/watch/BrowserNotices.svelte';
  import { watchHere } from '$lib/ui/watch/offers.svelte';
  import WatchDialog from '$lib/ui/watch/WatchDialog.svelte';
  import { listen } from '$lib/ui/shell/live';
  import Nav from '$lib/ui/shell/Nav.svelte';
  import Palette from '$lib/ui/shell/Palette.svelte';
  import { shellState } from '$lib/ui/shell/shell-state.svelte';
  import type { Sides } from '@tromix/core/sides';
  import type { TimeWindow } from '$lib/scope';
  import { VIEWS } from '$lib/views';
  import type { LayoutData } from './$types';

  let { data, children }: { data: LayoutData; children: Snippet } = $props();
  /** Signing in, and addresses without anything, stand alone: nothing was loaded for a frame. */
  const bare = $derived(page.url.pathname === '/login' || !data.rail);

  $effect(() => preferences.followSystem());

  let watchNews = $state(0);
  $effect(() => {
    if (bare) return;
    /** Asks anew. A navigation under way would be called off by that, and may have read its data before the news. */
    const ask = (what: `tromix:${string}`): void => {
      const anew = (): void => ask(what);
      if (navigating.complete) void navigating.complete.then(anew, anew);
      else void invalidate(what);
    };
    // A selected window lies in the past: it changes only by late spans, which a reload shows, unless its end is just over.
    const isMoving = (): boolean => page.data.scope?.from === undefined || page.data.isSettling === true;
    return listen(
      untrack(() => data.live),
      (event) => {
        if (event === 'booked' || event === 'runs') {
          if (event === 'runs') ask('tromix:runs');
          if (isMoving()) ask('tromix:data');
        } else if (event === 'evidence') {
          ask('tromix:evidence');
          ask('tromix:data');
        } else {
          if (event === 'watches') watchNews++;
          ask(`tromix:${event}`);
        }
      }
    );
  });

  /** Wherever nothing is chosen yet, arrows go to the list of the view. */
  const toList = (): boolean => goToList(document.getElementById('view'));
  function chooseRow(event: KeyboardEvent): void {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    const { activeElement } = document;
    if (activeElement !== null && activeElement !== document.body && activeElement.id !== 'view') return;
    if (!event.defaultPrevented && toList()) event.preventDefault();
  }

  const onkeydown = onKeys({
    '/': () => (shellState.paletteOpen = true),
    '?': () => (shellState.keysOpen = true),
    p: () => void pinHere(),
    b: () => briefHere(),
    w: () => {
      if (!watchHere()) toast('Nothing here has a figure to watch. Choose a row or a chart first.');
    },
    ...Object.fromEntries(VIEWS.map(({ key, path }) => [`g ${key}`, () => void goto(viewLink(path))]))
  });
</script>

<svelte:head><title>{page.data.title ? `${page.data.title} · Tromix` : 'Tromix'}</title></svelte:head>
<svelte:window
  onkeydown={(event) => {
    onkeydown(event);
    chooseRow(event);
  }}
/>

{#if bare}
  <div class="h-screen">{@render children()}</div>
{:else}
  <a class="skip" href="#view" data-sveltekit-replacestate>Skip to the view</a>
  <button class="skip" onclick={toList}>Skip to its list</button>
  <div class="flex h-screen">
    <Nav counts={data.counts} knownMs={data.nowMs} asksToken={data.asksToken} {watchNews} />
    <div class="grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)_92px]">
      <div class="relative min-h-0 min-w-0">
        {#if navigating.to}
          <div
            class="absolute inset-x-0 top-0 z-30 h-0.5 animate-pulse bg-pen"
            role="progressbar"
            aria-label="Loading"
          ></div>
        {/if}
        <!-- A fault in one view takes neither the frame nor the other views with it. -->
        <svelte:boundary onerror={(error) => console.error(error)}>
          {@render children()}
          {#snippet failed(error, reset)}<DrawFailed {error} {reset} />{/snippet}
        </svelte:boundary>
      </div>
      <TimeRail
        rail={data.rail}
        scope={data.scope}
        nowMs={data.nowMs}
        sides={(page.data as { windows?: Sides<TimeWindow> | null }).windows ?? null}
      />
    </div>
  </div>
  <Palette />
  <KeysDialog />
  <BriefDialog />
  <PinDialog cases={data.cases} />
  <WatchDialog />
  <BoardDialog />
  <BrowserNotices />
{/if}
<Toaster
  theme={preferences.theme}
  position="bottom-right"
  toastOptions={{
    style:
      'font-family: var(--font-sans); background: var(--sheet); color: var(--ink); border-color: var(--rule)'
  }}
/>
