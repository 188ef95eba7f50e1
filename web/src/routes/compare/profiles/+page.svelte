<script lang="ts">
  import { untrack } from 'svelte';
  import { eachSide } from '@tromix/core/sides';
  import { formatDuration, plural } from '@tromix/core/text/format';
  import PairSelects from '$lib/ui/compare/PairSelects.svelte';
  import ProfilesCompared from '$lib/ui/compare/ProfilesCompared.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { NO_PICKS } from '$lib/scope';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const key = $derived(data.before && data.after ? `${data.before.id} ${data.after.id}` : '');
  const sources = $derived.by(() => {
    if (key === '') return null;
    const { before, after } = untrack(() => data);
    return eachSide({ before: before!.id, after: after!.id }, (id) => ({
      content: `/api/evidence/${id}/content`
    }));
  });
</script>

<ProfilesCompared {sources} requests={data.requests}>
  {#snippet scope()}
    <PairSelects
      items={data.profiles}
      chosen={{ before: data.before, after: data.after }}
      noun="profile"
      more={({ summary }) => summary?.valueType ?? 'damaged'}
    />
  {/snippet}
  {#snippet about({ durationsNs, requests })}
    {#if data.before && data.after}
      <p class="text-ink-2">
        {#each ['before', 'after'] as const as side (side)}
          {side === 'before' ? 'Before' : ' After'}: {formatDuration(
            durationsNs[side]
          )}{#if requests[side] > 0}, {plural(requests[side], 'request')}{/if}.
        {/each}
      </p>
      {#if data.before.service !== data.after.service}<p class="text-ink-2">
          These are of two services: what differs need not be a change.
        </p>{/if}
      <p class="text-ink-3">
        One recording each says nothing of how much two recordings of the same release differ. Record again
        before you trust a small change.
      </p>
      <p class="mt-3 flex flex-wrap gap-1.5">
        <a class="button" href={viewLink(`/profiles/${data.before.id}`, NO_PICKS)}>The earlier one</a>
        <a class="button" href={viewLink(`/profiles/${data.after.id}`, NO_PICKS)}>The later one</a>
      </p>
    {/if}
  {/snippet}
  {#snippet unchosen()}
    <p>Choose two profiles of the same service: one from before a change, one from after.</p>
  {/snippet}
  {#snippet empty()}
    <Empty title={data.profiles.length < 2 ? 'Two profiles are needed' : 'Choose what to compare'}>
      <p>Record the same process before and after a change, under the same load, and choose both above.</p>
      <a class="button button-solid" href="/recorder">Go to the recorder</a>
    </Empty>
  {/snippet}
</ProfilesCompared>
