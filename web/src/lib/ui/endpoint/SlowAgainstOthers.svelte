<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { SLOW_KINDS } from '$lib/endpoint-choices';
  import { withValue } from '$lib/attribute-condition';
  import type { Scope } from '$lib/scope';
  import type { EndpointPage } from '$lib/server/queries/endpoint';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import { shortTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';

  /** Attributes, hosts and releases that are more common among the slow requests than among the others. */
  interface Props {
    page: EndpointPage;
    scope: Scope;
    nowMs: number;
    hrefBy: (slow: string) => string;
  }
  let { page, scope, nowMs, hrefBy }: Props = $props();
  const { lift } = $derived(page);

  /** The slow requests of this endpoint with one of the values. */
  function narrowed({ name, value }: (typeof lift.rows)[number]): string {
    const of: Partial<Scope> =
      name === 'host'
        ? { host: value }
        : name === 'release'
          ? { release: value }
          : { attributes: withValue(scope.attributes, name, value) };
    return viewLink('/requests', {
      service: page.service,
      endpoint: page.endpoint,
      slower: Number((lift.thresholdNs / 1e6).toFixed(3)),
      ...of
    });
  }
</script>

<div class="mb-1 flex items-baseline gap-3 text-ink-2">
  <h2 class="text-[13px] text-ink">What sets slow requests apart, by <Hint of="lift">lift</Hint></h2>
  <Choices
    label="slow:"
    choices={Object.entries(SLOW_KINDS).map(([key, name]) => ({ key, name, href: hrefBy(key) }))}
    value={lift.kind}
  />
</div>
{#if lift.rows.length === 0}
  <p class="text-ink-3">
    {lift.slow === 0 || lift.others === 0
      ? 'It takes both slow and other requests to compare; only one kind is kept here.'
      : `No attribute, host or release is clearly more common among the ${plural(lift.slow, 'slow request')} than among the other ${formatCount(lift.others)}.`}
  </p>
{:else}
  <table class="w-full max-w-3xl" aria-label="What sets slow requests apart">
    <thead
      ><tr class="border-b border-rule"
        ><th class="column">attribute</th><th class="column">value</th><th class="column text-right"
          >of {formatCount(lift.slow)} slow</th
        ><th class="column text-right">of {formatCount(lift.others)} others</th><th
          class="column text-right"
          title="Share among the slow ÷ share among the others">lift</th
        ></tr
      ></thead
    >
    <tbody>
      {#each lift.rows as row (JSON.stringify([row.name, row.value]))}
        <tr class="border-b border-grid">
          <td class="px-2 py-0.5 num text-ink-2">{row.name}</td>
          <td class="px-2 num"><a class="hover:underline" href={narrowed(row)}>{row.value}</a></td>
          <td class="px-2 text-right num">{formatCount(row.slow)} · {formatShare(row.slowShare)}</td>
          <td class="px-2 text-right num">{formatCount(row.others)} · {formatShare(row.otherShare)}</td>
          <td class="px-2 text-right num">{row.others === 0 ? 'only slow' : `${row.lift.toFixed(1)}×`}</td>
        </tr>
      {/each}
    </tbody>
  </table>
{/if}
<p class="mt-1 text-[11px] text-ink-3">
  Slow here: longer than {formatDuration(lift.thresholdNs)}, of the {formatCount(page.kept)} requests kept since
  {shortTime(page.window.fromUs / 1000, nowMs)}. Listed are values of at least a tenth of the slow requests,
  and at least five, whose difference is not down to chance (p ≤ 0.001).
</p>
