<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Words } from '@tromix/core/text/words';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import type { Action } from '$lib/ui/kit/actions';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Warnings from '$lib/ui/kit/Warnings.svelte';
  import HeaviestBranch from './HeaviestBranch.svelte';
  import { profileReading } from './profile-reading';
  import type { ProfileScreen } from './profile-screen.svelte';
  import { nameOf, type ProfileState } from './profile-state';
  import SelectedFunction from './SelectedFunction.svelte';

  interface Props {
    screen: ProfileScreen;
    href: (change: Partial<ProfileState>) => string;
    actionsOf: (frame: number, node: number) => Action[];
    onselect: (node: number) => void;
    onheaviest: () => void;
    /** How it begins, where it is not of one recording; and what was found beside what the rules find in it. */
    begin?: readonly Words[];
    more?: Snippet;
  }
  let { screen, href, actionsOf, onselect, onheaviest, begin, more }: Props = $props();
  const { opened, view, selected, selectedFrame } = $derived(screen);
</script>

{#if screen.error}
  <p class="text-alarm" role="alert">{screen.error}</p>
{:else if opened && view}
  {#each profileReading(opened, view, screen.lengthNs, begin) as sentence, i (i)}<Sentence
      text={sentence}
    />{/each}
  {#if view.sum > 0}
    <button class="button button-solid" onclick={onheaviest}>Follow the heaviest branch</button>
    {@render more?.()}
    {#each view.findings as finding, i (i)}
      <Finding title={finding.title} severity={finding.severity}>
        <p>{finding.sentence}</p>
        <p class="mt-1 text-ink-2">{finding.remedy}</p>
        {#snippet actions()}
          {#if finding.frame >= 0}
            {@const known = opened.frames[finding.frame]}
            <a class="button" href={href({ show: 'leaves', of: nameOf(known) })}>Show callers</a>
            {#if known.file}<a
                class="button"
                href={href({ show: 'lines', file: known.file, of: nameOf(known) })}>Show its lines</a
              >{/if}
          {/if}
          <a class="button" href="/findings/{finding.rule}">About this rule</a>
        {/snippet}
      </Finding>
    {/each}
    <HeaviestBranch {opened} {view} {selected} {onselect} />
  {/if}
  {#if selectedFrame >= 0}
    <SelectedFunction {opened} {view} selected={selectedFrame} actions={actionsOf(selectedFrame, selected)} />
  {/if}
  <Warnings warnings={opened.warnings} />
{:else}
  <p class="text-ink-3">Reading the samples…</p>
{/if}
