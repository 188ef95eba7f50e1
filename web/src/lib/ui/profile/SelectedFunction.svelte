<script lang="ts">
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import { formatWeight } from '@tromix/core/profile/units';
  import { formatCount, formatShare } from '@tromix/core/text/format';
  import type { Action } from '$lib/ui/kit/actions';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
  import { placeOf } from './profile-reading';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    /** The function, by its index in the profile. */
    selected: number;
    actions: Action[];
  }
  let { opened, view, selected, actions }: Props = $props();

  const frame = $derived(opened.frames[selected]);
  const weight = $derived(view.functions.find((one) => one.frame === selected) ?? { self: 0, total: 0 });
  const deepest = $derived(opened.deepest[selected]);
  const calls = $derived(opened.calls?.[selected] ?? 0);
  const origin = $derived(
    frame.package ? `dependency ${frame.package}` : frame.kind === 'app' ? 'application' : frame.kind
  );
  const facts = $derived<[string, string, string][]>([
    ['self', formatWeight(weight.self, opened), formatShare(weight.self / view.sum)],
    ['total', formatWeight(weight.total, opened), formatShare(weight.total / view.sum)],
    ['deepest', `${deepest}×`, deepest > 1 ? 'recursive' : 'no recursion'],
    ...(calls > 0 ? [['calls', formatCount(calls), 'counted'] as [string, string, string]] : [])
  ]);
</script>

<section aria-label="Selected">
  <h3 class="mt-3.5 mb-1 heading">Selected</h3>
  <p class="num font-semibold break-words" data-testid="selected-function">{frame.name}</p>
  <p class="mb-1 num break-words text-ink-2" data-testid="selected-place">{placeOf(frame)}</p>
  <p class="mb-1 text-[11px] text-ink-3">{origin}</p>
  <FactTable {facts} />
  <div class="mt-2 flex flex-wrap gap-1.5">
    {#each actions as { name, href, run } (name)}
      {#if href}<a class="button" {href}>{name}</a>{:else}<button class="button" onclick={run}>{name}</button
        >{/if}
    {/each}
  </div>
</section>
