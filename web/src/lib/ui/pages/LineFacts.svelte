<script lang="ts">
  import type { LoadRow } from '@tromix/core/pages/load-rows';
  import type { PageResource } from '@tromix/core/pages/page-load';
  import { formatBytes, formatDuration, formatShare } from '@tromix/core/text/format';
  import type { OneLoad } from '$lib/server/queries/pages/one-load';
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import BehindIt from './BehindIt.svelte';
  import { profileLink } from '$lib/ui/profile/profile-link';
  import { taskStretch } from './task-profile';
  import TaskSamples from './TaskSamples.svelte';

  /** What is known of the line that is chosen. */
  interface Props {
    one: OneLoad;
    row: LoadRow;
    /** Places of the things it stands for. */
    members: readonly number[];
  }
  let { one, row, members }: Props = $props();
  const ms = (value: number): string => formatDuration(value * 1e6);
  const single = $derived(members.length === 1 ? members[0] : null);
  const resource = $derived(row.of === 'resource' && single !== null ? one.load.resources[single] : null);
  const task = $derived(row.of === 'task' && single !== null ? one.load.tasks[single] : null);
  const stretch = $derived(task && taskStretch(one.profile, task));

  type Fact = [name: string, value: string];
  function facts(of: PageResource): Fact[] {
    const { startMs, endMs, phases: p } = of;
    const between = (name: string, from: number | null, to: number | null): Fact[] =>
      from !== null && to !== null && to > from ? [[name, ms(to - from)]] : [];
    return [
      ['began', ms(startMs)],
      ['took', ms(endMs - startMs)],
      ...(p
        ? [
            ...between(
              'waited in the browser',
              startMs,
              p.lookupStartMs ?? p.connectStartMs ?? p.requestStartMs
            ),
            ...between('name look-up', p.lookupStartMs, p.lookupEndMs),
            ...between('connect', p.connectStartMs, p.secureStartMs ?? p.connectEndMs),
            ...between('TLS', p.secureStartMs, p.connectEndMs),
            ...between('to the first byte', p.requestStartMs, p.responseStartMs),
            ...between('rest of the answer', p.responseStartMs, endMs)
          ]
        : ([['phases', 'not told']] as Fact[])),
      ['over the network', of.transferBytes === null ? 'not told' : formatBytes(of.transferBytes)],
      ['status', of.status > 0 ? String(of.status) : 'not told'],
      ['the paint waits for it', of.blocks === null ? 'not told' : of.blocks ? 'yes' : 'no'],
      ...(of.unusedShare === null
        ? []
        : ([['not used before the paint', formatShare(of.unusedShare)]] as Fact[]))
    ];
  }
  /** Requests behind what the line stands for. */
  const spans = $derived(
    new Set(
      row.of === 'resource' ? members.map((index) => one.load.resources[index].spanId).filter(Boolean) : []
    )
  );
  const behind = $derived(one.requests.filter(({ spanId }) => spans.has(spanId)));
  const isAsked = $derived(
    row.of === 'resource' && members.some((i) => ['document', 'data'].includes(one.load.resources[i].kind))
  );
</script>

<h3 class="mt-3 mb-1.5 heading">Selected: {row.label}</h3>
{#if resource}
  <p class="mb-1.5 num text-[11px] break-all text-ink-2">{resource.url}</p>
  <FactTable facts={facts(resource)} />
{:else if task}
  <FactTable
    facts={[
      ['began', ms(task.startMs)],
      ['held the page for', ms(task.endMs - task.startMs)],
      ['function', task.function || 'not told'],
      ['script', task.script || 'not told']
    ]}
  />
  {#if stretch}
    <TaskSamples {stretch} />
    <p class="mt-2">
      <a class="button button-solid" href={profileLink(stretch)}
        >Open those {ms(task.endMs - task.startMs)} in Profiles</a
      >
    </p>
  {:else}<p class="mt-2 text-ink-3">No profile of this load covers it.</p>{/if}
{:else}
  <FactTable
    facts={[
      ['began', ms(row.fromMs)],
      ['ended', ms(row.toMs)],
      ['together over the network', row.bytes === null ? 'not told' : formatBytes(row.bytes)]
    ]}
  />
{/if}
{#if behind.length > 0 || isAsked}<BehindIt requests={behind} asked={spans.size} />{/if}
