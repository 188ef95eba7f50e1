<script lang="ts">
  import type { FoundSinceRelease } from '@tromix/core/findings/function-since-release';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { nameOf, type ProfileState } from './profile-state';

  /** Functions that are slower since a release, each with the ways on from there. */
  interface Props {
    found: readonly FoundSinceRelease[];
    href: (change: Partial<ProfileState>) => string;
  }
  let { found, href }: Props = $props();
</script>

{#each found as { title, severity, sentence, remedy, frame, releases } (nameOf(frame))}
  {@const of = nameOf(frame)}
  <Finding {title} {severity}>
    <p>{sentence}</p>
    <p class="mt-1 text-ink-2">{remedy}</p>
    {#snippet actions()}
      <a class="button" href={viewLink('/compare/releases', { release: '' }, { ...releases, at: of })}
        >Show the difference</a
      >
      <a class="button" href={href({ show: 'over', of })}>Over time</a>
      {#if frame.file}<a class="button" href={href({ show: 'lines', file: frame.file, of })}>Show its lines</a
        >{/if}
      <a class="button" href="/findings/function-since-release">About this rule</a>
    {/snippet}
  </Finding>
{/each}
