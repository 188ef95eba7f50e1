<script lang="ts">
  import { sampleName, wholeName } from '@tromix/core/profile/units';
  import { formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import SampleFilters from './SampleFilters.svelte';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import type { ProfileScreen } from './profile-screen.svelte';
  import { WHOLE_ZOOM } from './flame-view';
  import { actWords, type ProfileState } from './profile-state';
  import { SHOW_NAMES, type Show } from './shows';

  interface Props {
    screen: ProfileScreen;
    shown: ProfileState;
    shows: readonly Show[];
    /** Files opened together with the first, each with the address without it. */
    added: { name: string; without: string }[];
    openTogether: Action[];
    exports: Action[];
    /** Where it is held against another. */
    compareHref: string;
    search: string;
    searchField: HTMLInputElement | null;
    href: (change: Partial<ProfileState>) => string;
    go: (change: Partial<ProfileState>) => Promise<void>;
  }
  let {
    screen,
    shown,
    shows,
    added,
    openTogether,
    exports,
    compareHref,
    search = $bindable(),
    searchField = $bindable(),
    href,
    go
  }: Props = $props();
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);

  const { opened, view, found } = $derived(screen);

  const facts = $derived.by(() => {
    if (!opened || !view) return [];
    const read = view.show === 'root' || view.show === 'leaves';
    return [
      found &&
        `${plural(found.size, 'function')}, ${formatShare(screen.foundShare)} of the ${wholeName(opened)} selected`,
      plural(view.samples, sampleName(opened)),
      read && `stronger tint = more self${opened.unit === 'nanoseconds' ? ' time' : ''}`,
      view.thinned && 'thinned to pixels: zoom in',
      view.closed.length > 0 &&
        `${plural(view.closed.length, 'idle stretch', 'idle stretches')} closed up: ${formatDuration(view.closed.reduce((sum, { ns }) => sum + ns, 0))}`,
      view.show === 'leaves' &&
        view.unopened > 0 &&
        `${formatShare(view.unopened / (view.sum || 1))} too light to open`
    ].filter((fact) => typeof fact === 'string');
  });

  const isFolded = (kind: string): boolean =>
    shown.acts.some(({ act, by, name }) => act === 'fold' && by === 'kind' && name === kind);
  const withFold = (kind: string): string =>
    href({
      acts: isFolded(kind)
        ? shown.acts.filter(({ act, by, name }) => act !== 'fold' || by !== 'kind' || name !== kind)
        : [...shown.acts, { act: 'fold', by: 'kind', name: kind }]
    });
  const toggles = $derived([
    {
      about: 'Fold the runtime',
      name: 'runtime',
      on: isFolded('runtime'),
      href: withFold('runtime')
    },
    {
      about: 'Fold dependencies',
      name: 'dependencies',
      on: isFolded('dependency'),
      href: withFold('dependency')
    },
    {
      about: 'Fold recursion',
      name: 'recursion',
      on: shown.foldRecursion,
      href: href({ foldRecursion: !shown.foldRecursion })
    }
  ]);

  const nameOfFrame = (frame: number): string =>
    opened?.frames[frame]?.name ?? 'a function this profile does not have';
  /** What narrows or shapes the profile, each with the way to take it back. */
  const chips = $derived([
    ...(shown.during
      ? [
          {
            text: `during ${shown.during}`,
            about: 'during the requests of one endpoint',
            href: href({ during: '' })
          }
        ]
      : []),
    ...(shown.root
      ? [
          {
            text: `all calls of ${nameOfFrame(screen.index.get(shown.root) ?? -1)}`,
            about: 'all its calls, merged',
            href: href({ root: '' })
          }
        ]
      : []),
    ...(shown.of && (shown.show === 'leaves' || shown.show === 'neighbours')
      ? [
          {
            text: `${shown.show === 'leaves' ? 'callers' : 'callers and callees'} of ${nameOfFrame(screen.asked)}`,
            about: 'of one function',
            href: href({ of: '' })
          }
        ]
      : []),
    ...added.map(({ name, without }) => ({
      text: `with ${name}`,
      about: `together with ${name}`,
      href: without
    })),
    ...shown.acts.flatMap((named, i) =>
      named.by === 'kind' && named.act === 'fold' && ['runtime', 'dependency'].includes(named.name)
        ? []
        : [
            {
              text: actWords(named),
              about: actWords(named),
              href: href({ acts: shown.acts.filter((_, at) => at !== i) })
            }
          ]
    )
  ]);
</script>

{#snippet toggle(about: string, name: string, on: boolean, to: string)}
  <a class="toggle" aria-pressed={on} role="button" aria-label={about} href={to}>{name}</a>
{/snippet}

<div
  class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1.5 whitespace-nowrap text-ink-2"
>
  <Choices
    label=""
    choices={shows.map((show) => ({ key: show, name: SHOW_NAMES[show], href: href({ show }) }))}
    value={shown.show}
  />
  <span class="ml-auto text-[11px]">{facts.join(' · ')}</span>
</div>
<div
  class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1 text-[11px] text-ink-2"
>
  {#if opened}<SampleFilters {opened} {shown} {go} />{/if}
  <span>fold</span>
  {#each toggles as { about, name, on, href: to } (name)}{@render toggle(about, name, on, to)}{/each}
  {#if opened && opened.durationNs > 0}<span>count</span>
    {@render toggle('Count idle samples', 'idle', shown.idle, href({ idle: !shown.idle }))}
    {#if shown.show === 'time' && !shown.idle}
      {@render toggle(
        'Close idle stretches up',
        'closed up',
        !shown.even,
        href({ even: !shown.even, zoom: WHOLE_ZOOM })
      )}{/if}{/if}
  {#each chips as { text, about, href: to }, i (i)}
    <span class="chip">{text}<a href={to} aria-label="Take back: {about}">×</a></span>
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
        title="Open another file together with this one: each becomes a thread"
        onclick={(event) => void menu?.open(event, openTogether)}>Add a file</button
      >{/if}
    {#if compareHref}<a class="button" href={compareHref} title="Hold it against another profile">Compare</a
      >{/if}
    <ExportMenu {exports} />
  </span>
</div>
<ActionMenu bind:this={menu} />
