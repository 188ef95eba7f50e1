<script lang="ts">
  import NewestEvidence from '$lib/ui/evidence/NewestEvidence.svelte';
  import { words } from '@tromix/core/text/words';
  import { formatDuration, plural } from '@tromix/core/text/format';
  import { inScope } from '$lib/evidence/in-scope';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import EvidenceTable from '$lib/ui/evidence/EvidenceTable.svelte';
  import { scopeWindow } from '$lib/scope';
  import { viewLink } from '$lib/ui/shell/links';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const window = $derived(scopeWindow(data.scope, data.nowMs));
  /** Profiles whose time or names are not known are always listed: they may belong to anything. */
  const profiles = $derived(data.profiles.filter((item) => inScope(item, data.scope, window)));
  const busiest = $derived(
    profiles
      .filter(({ durationNs, summary }) => durationNs > 0 && summary?.unit === 'nanoseconds')
      .map((item) => ({ ...item, busyNs: item.summary?.sum ?? 0 }))
      .toSorted((a, b) => b.busyNs / b.durationNs - a.busyNs / a.durationNs)[0]
  );
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'release', 'time']} {window} />
  {/snippet}
  {#snippet reading()}
    {#if busiest}
      <Sentence
        text={words`${[plural(profiles.length, 'profile')]} in this scope. The busiest is of ${[busiest.service || 'an unnamed process']}: ${formatDuration(busiest.busyNs)} of CPU in ${formatDuration(busiest.durationNs)}.`}
      />
    {:else}
      <p>
        No profiles in this scope{data.profiles.length > 0
          ? `; ${plural(data.profiles.length, 'other')} outside it`
          : ''}.
      </p>
    {/if}
    <p class="text-ink-2">
      A request with a blind stretch leads to the profile of its process, cut to its milliseconds.
    </p>
  {/snippet}
  {#if profiles.length === 0 && data.summed.slices > 0}
    <Empty title="No recording is kept whole in this scope">
      <p>
        What {plural(data.summed.slices, 'piece')} of recordings of {data.summed.services.join(', ')} come to is
        kept: functions with their stacks, without single samples.
      </p>
      <p class="flex gap-2">
        <a class="button button-solid" href={viewLink('/profiles/scope')}>All of them as one</a
        ><NewestEvidence items={data.profiles} />
      </p>
    </Empty>
  {:else if profiles.length === 0}
    <Empty title="No profiles in this scope">
      <p>
        Record one with <code class="num">node --cpu-prof</code> or the inspector of your runtime, and drop the
        file on the evidence view.
      </p>
      <p class="flex gap-2">
        <a class="button button-solid" href="/evidence">Add evidence</a><NewestEvidence
          items={data.profiles}
        />
      </p>
    </Empty>
  {:else}
    <EvidenceTable label="Profiles" items={profiles}>
      {#snippet head()}
        <h1 class="text-[13px] text-ink">Profiles</h1>
        <a class="button" href={viewLink('/profiles/scope')}>All of them as one</a>
      {/snippet}
    </EvidenceTable>
  {/if}
</Page>
