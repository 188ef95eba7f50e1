<script lang="ts">
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import { ruleText } from '@tromix/core/findings/all-rules';
  import type { FoundInLoads } from '$lib/server/queries/pages/one-page';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { loadLink } from './page-links';

  /** What rules find in many loads of a page. */
  let { findings, lookedAt }: { findings: readonly FoundInLoads[]; lookedAt: number } = $props();
  const title = ({ rule }: FoundInLoads): string => ruleText(rule)?.name ?? rule;
</script>

{#each findings as finding (finding.rule)}
  <Finding
    title={title(finding)}
    severity={finding.loads * 2 >= lookedAt ? 'high' : 'medium'}
    note="in {formatCount(finding.loads)} of {plural(lookedAt, 'load')}{finding.meanMs > 0
      ? `, ${formatDuration(finding.meanMs * 1e6)} on average over all of them`
      : ''}"
    offer={() => ({
      sentence: `${finding.worst.sentence} ${finding.worst.remedy}`,
      traces: [finding.worst.traceId]
    })}
  >
    <p>In the load where it costs most: {finding.worst.sentence}</p>
    <p class="mt-1">{finding.worst.remedy}</p>
    {#snippet actions()}
      <a class="button button-solid" href={loadLink(finding.worst.traceId)}>Open that load</a>
      <a class="button" href={viewLink(`/findings/${finding.rule}`)}>About this rule</a>
    {/snippet}
  </Finding>
{/each}
