<script lang="ts">
  import type { PageFinding as FoundInPage } from '@tromix/core/findings/page-finding';
  import type { PageRule } from '@tromix/core/findings/page-rules';
  import { formatDuration } from '@tromix/core/text/format';
  import type { OneLoad } from '$lib/server/queries/pages/one-load';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import RequestButton from './RequestButton.svelte';
  import { profileLink } from '$lib/ui/profile/profile-link';
  import { taskStretch } from './task-profile';
  import TaskSamples from './TaskSamples.svelte';

  /** What the rules find in one load, with the ways on. */
  interface Props {
    findings: readonly FoundInPage<PageRule>[];
    one: OneLoad;
    /** Shows the row of a resource or a task. */
    onshow: (of: 'resource' | 'task', index: number) => void;
  }
  let { findings, one, onshow }: Props = $props();

  const requestOf = (index: number | undefined) => {
    const resource = index === undefined ? undefined : one.load.resources[index];
    return resource && one.requests.find(({ spanId }) => spanId !== '' && spanId === resource.spanId);
  };
</script>

{#each findings as finding, i (i)}
  {@const { resources, tasks } = finding.evidence}
  {@const request = requestOf(resources[0])}
  <Finding
    title={finding.title}
    severity={finding.severity}
    offer={() => ({
      sentence: `${finding.sentence} ${finding.remedy}`,
      traces: [one.load.traceId]
    })}
  >
    <p>{finding.sentence}</p>
    {#each tasks as index (index)}
      {@const stretch = taskStretch(one.profile, one.load.tasks[index])}
      {#if stretch}<TaskSamples {stretch} />{/if}
    {/each}
    <p class="mt-1">{finding.remedy}</p>
    {#snippet actions()}
      {#each tasks as index (index)}
        {@const stretch = taskStretch(one.profile, one.load.tasks[index])}
        {#if stretch}<a class="button button-solid" href={profileLink(stretch)}
            >Open those {formatDuration((one.load.tasks[index].endMs - one.load.tasks[index].startMs) * 1e6)} in
            Profiles</a
          >{/if}
      {/each}
      {#if request && finding.rule === 'slow-first-byte'}<RequestButton {request} />{/if}
      {#if resources.length > 0}<button class="button" onclick={() => onshow('resource', resources[0])}
          >Show the {resources.length > 1 ? 'files' : 'file'}</button
        >{:else if tasks.length > 0}<button class="button" onclick={() => onshow('task', tasks[0])}
          >Show the task</button
        >{/if}
      <a class="button" href={viewLink(`/findings/${finding.rule}`)}>About this rule</a>
    {/snippet}
  </Finding>
{:else}
  <p class="text-ink-3" role="status">No rule found anything in this load.</p>
{/each}
