<script lang="ts">
  import { page } from '$app/state';
  import MoonIcon from '@lucide/svelte/icons/moon';
  import PinIcon from '@lucide/svelte/icons/pin';
  import SunIcon from '@lucide/svelte/icons/sun';
  import { groupBy } from '@tromix/core/group-by';
  import type { Counts } from '$lib/server/queries/counts';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { pinsTo } from '$lib/ui/cases/pins.svelte';
  import { preferences } from './preferences.svelte';
  import { NO_PICKS } from '$lib/scope';
  import { VIEWS, viewOf, type View } from '$lib/views';
  import { viewLink } from './links';
  import { shellState } from './shell-state.svelte';

  interface Props {
    counts: Counts;
    /** When they were counted, epoch milliseconds. */
    knownMs: number;
    asksToken: boolean;
    /** How often watches told something since the page was opened. */
    watchNews: number;
  }
  let { counts, knownMs, asksToken, watchNews }: Props = $props();
  /** Asked whenever the page has loaded its data; one that cannot be counted is not shown. */
  const findings = resource(
    () => knownMs,
    (_, signal) => send<{ count: number }>('GET', viewLink('/api/open-findings'), undefined, signal),
    { keep: true }
  );
  const unseen = resource(
    () => watchNews,
    (_, signal) => send<{ count: number }>('GET', '/api/watches/count', undefined, signal),
    { keep: true }
  );
  const countOf = (lists: View['lists']): number | undefined => {
    if (lists === 'findings') return findings.value?.count;
    if (lists === 'watches') return unseen.value?.count;
    return lists && counts[lists];
  };
  const TITLES: Partial<Record<NonNullable<View['lists']>, string>> = {
    all: 'In all',
    cases: 'Open',
    findings: 'Open in this scope',
    watches: 'Came on, and nobody looked yet'
  };
  const groups = [...groupBy(VIEWS, ({ question }) => question)];
  const current = $derived(pinsTo());
  const open = $derived(viewOf(page.url.pathname));
</script>

<nav class="flex w-[168px] flex-none flex-col border-r border-rule py-2.5" aria-label="Views">
  <a href={viewLink('/')} class="flex items-center gap-2 px-3.5 pb-2 text-base font-[650] tracking-tight">
    <svg width="26" height="20" viewBox="0 0 26 20" aria-hidden="true">
      <rect width="26" height="20" rx="2" fill="var(--ink)" />
      <path
        d="M2 11h5l1.5-2 2 6 2.5-12 2.5 12 1.5-4H24"
        fill="none"
        stroke="var(--paper)"
        stroke-width="1.6"
        stroke-linejoin="round"
      />
    </svg>
    Tromix
  </a>
  {#each groups as [question, views] (question)}
    <h2 class="px-3.5 pt-3 pb-1 heading">{question}</h2>
    {#each views as view (view.path)}
      {@const { name, path, lists } = view}
      {@const count = countOf(lists)}
      <a
        href={viewLink(path, path === '/requests' ? {} : NO_PICKS)}
        aria-current={view === open ? 'page' : undefined}
        class="flex justify-between border-l-3 border-transparent px-3.5 py-1 text-ink-2 hover:bg-sheet aria-[current=page]:border-pen aria-[current=page]:bg-sheet aria-[current=page]:font-semibold aria-[current=page]:text-ink"
      >
        {name}
        {#if count}<span
            class="min-w-[3ch] text-right num font-normal {lists === 'watches' ? 'text-alarm' : 'text-ink-3'}"
            title={TITLES[lists!] ?? 'In this scope'}>{count}</span
          >{/if}
      </a>
      {#if lists === 'cases' && current}
        <a
          href="/cases/{current.id}"
          title="Pins go to the case “{current.question}” (p)"
          class="ml-3.5 flex items-center gap-1 border-l-3 border-pen py-0.5 pr-2 pl-2 text-[11px] text-ink-2 hover:text-ink"
          ><PinIcon size={11} class="flex-none" aria-hidden="true" /><span class="sr-only">Pins go to</span
          ><span class="truncate">{current.question}</span></a
        >
      {/if}
    {/each}
  {/each}
  <div class="mt-auto flex items-center gap-2 px-3.5">
    <button
      class="button border-rule px-1.5 text-ink-2"
      aria-label={preferences.theme === 'dark' ? 'Show light paper' : 'Show dark paper'}
      title={preferences.theme === 'dark' ? 'Light paper' : 'Dark paper'}
      onclick={() => preferences.setTheme(preferences.theme === 'dark' ? 'light' : 'dark')}
    >
      {#if preferences.theme === 'dark'}<SunIcon size={14} />{:else}<MoonIcon size={14} />{/if}
    </button>
    <button class="text-[11px] text-ink-3 hover:text-ink" onclick={() => (shellState.keysOpen = true)}
      ><kbd class="num">?</kbd> keys</button
    >
    {#if asksToken}<a class="ml-auto text-[11px] text-ink-3 hover:text-ink" href="/sessions">sessions</a>{/if}
  </div>
</nav>
