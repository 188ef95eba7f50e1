<script lang="ts">
  import { untrack } from 'svelte';
  import { eachSide } from '@tromix/core/sides';
  import { formatDuration } from '@tromix/core/text/format';
  import { scopeQuery } from '$lib/scope';
  import ProfilesCompared from '$lib/ui/compare/ProfilesCompared.svelte';
  import { inTenths } from '$lib/ui/profile/in-tenths';
  import { sumsUrl } from '$lib/ui/profile/sums-url';
  import { viewLink } from '$lib/ui/shell/links';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const releases = $derived({ before: data.before, after: data.after });
  const key = $derived(`${data.before}\n${data.after}\n${scopeQuery(data.scope)}`);
  const sources = $derived.by(() => {
    void key;
    return untrack(() =>
      eachSide(releases, (release) => ({ sums: sumsUrl(data.scope, data.window, { release }) }))
    );
  });
</script>

<ProfilesCompared {sources}>
  {#snippet scope()}
    <ScopeLine
      which={['endpoint', 'service', 'host', 'time', 'run']}
      window={data.window}
      lead="Looking at releases {data.before} and {data.after} in all recordings of"
    />
  {/snippet}
  {#snippet about({ durationsNs, requests })}
    <p class="text-ink-2">
      {#each ['before', 'after'] as const as side (side)}
        {side === 'before' ? '' : ' '}{releases[side]}: {formatDuration(durationsNs[side])} recorded{#if requests[side] > 0},
          {inTenths(requests[side])} requests{/if}.
      {/each}
    </p>
    <p class="text-ink-3">
      A small change may be one of load: the rule about functions since a release tells which are more than
      chance.
    </p>
    <p class="mt-3 flex flex-wrap gap-1.5">
      {#each ['before', 'after'] as const as side (side)}
        <a class="button" href={viewLink('/profiles/scope', { release: releases[side] })}>{releases[side]}</a>
      {/each}
    </p>
  {/snippet}
  {#snippet unchosen()}<p>Reading both…</p>{/snippet}
  {#snippet empty()}<p>Reading both…</p>{/snippet}
</ProfilesCompared>
