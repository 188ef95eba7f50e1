<script lang="ts">
  import { ruleText } from '@tromix/core/findings/all-rules';
  import { formatBytes, formatCount, formatShare, plural } from '@tromix/core/text/format';
  import type { Health } from '$lib/server/queries/hosts/health';
  import type { OneHost } from '$lib/server/queries/hosts/one/one-host';
  import type { Strips } from '$lib/server/queries/hosts/hosts';
  import type { RefusedCounters } from '$lib/server/queries/hosts/refused-counters';
  import Finding from '$lib/ui/findings/Finding.svelte';
  import FactTable from '$lib/ui/kit/FactTable.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { healthSentence } from './health-words';
  import RecordNow from '$lib/ui/recorder/RecordNow.svelte';
  import { alsoOdd, oddSentence, rateText, usedSentence } from './host-words';

  /** What the strips show, what the rules found on the host that is chosen, and its facts. */
  interface Props {
    strips: Strips;
    host: OneHost | null;
    /** Key of the row that is chosen; '' for none. */
    chosen: string;
    /** By the rows' keys. */
    health: ReadonlyMap<string, Health>;
    refused: RefusedCounters[];
  }
  let { strips, host, chosen, health, refused }: Props = $props();
  const odd = $derived(oddSentence(strips));
  const used = $derived(host && usedSentence(host));
  const fares = $derived.by(() => {
    const row = strips.rows.find(({ key }) => key === chosen);
    return row ? healthSentence(row.name, health.get(row.key) ?? null) : null;
  });
  /** What a finding says already is not said twice. */
  const slower = $derived(
    host?.slower.filter(
      ({ service }) => !host.findings.some((found) => found.figures.ratio && found.service === service)
    ) ?? []
  );
  const facts = $derived.by((): [string, string][] => {
    if (!host) return [];
    const { cores, limits, memoryBytes } = host;
    const list: [string, string | null][] = [
      ['cores', cores === null ? null : formatCount(Math.round(cores))],
      ['cores its container may use', limits.cores === null ? null : limits.cores.toFixed(1)],
      [
        'memory used',
        memoryBytes.used === null
          ? null
          : `${formatBytes(memoryBytes.used)}${memoryBytes.limit === null ? '' : ` of ${formatBytes(memoryBytes.limit)}`}`
      ],
      ['memory its container may use', limits.memoryBytes === null ? null : formatBytes(limits.memoryBytes)]
    ];
    return list.filter((fact): fact is [string, string] => fact[1] !== null);
  });
  const meanwhile = (fromMs: number, toMs: number, service = '', finding = ''): string =>
    viewLink('/requests', { host: host!.host, service, endpoint: '', from: fromMs, to: toMs, finding });
</script>

{#if odd}<Sentence text={odd} />
{:else if strips.rows.length > 1}<p>
    None of {plural(strips.rows.length, 'row')} stands clear of the others.
  </p>
{:else if strips.rows.length === 1}<p>
    There is nothing to hold it against: only one tells its counters here.
  </p>
{/if}
{#each alsoOdd(strips) as sentence (sentence)}<p class="mt-1 text-ink-2">{sentence}</p>{/each}
{#if used}<div class="mt-2"><Sentence text={used} /></div>{/if}
{#if fares}<div class="mt-2"><Sentence text={fares} /></div>{/if}
{#if host}
  {#each slower as { service, ratio, requests } (service)}
    <p class="mt-2">
      Requests of <b class="font-semibold">{service}</b> on {host.host} took
      <b class="font-semibold">{ratio.toFixed(1)} times</b> as long as the same endpoints elsewhere ({plural(
        requests,
        'request'
      )}).
    </p>
  {/each}
  {#if host.findings.length > 0}<h3 class="mt-3 mb-1 heading">What stands out on {host.host}</h3>{/if}
  {#each host.findings as found, i (i)}
    <Finding title={found.title} severity={found.severity} note={found.remedy}>
      {found.sentence}
      {#snippet actions()}
        {@const waited = found.rule === 'pool-waits' && host.waiters.length > 0}
        <a
          class="button button-solid"
          href={meanwhile(found.fromMs, found.toMs, found.service, waited ? 'waits-for-connection' : '')}
          >{waited ? 'Requests that waited' : 'Its requests meanwhile'}</a
        >
        {#if ruleText(found.rule)?.seeAlso === 'profile'}<RecordNow
            wanted={{ host: host.host, service: found.service ?? '', pid: found.pid ?? 0 }}
            kind={found.rule === 'memory-follows-requests' ? 'allocation' : 'cpu'}
          />{/if}
        <a class="button" href={viewLink(`/findings/${found.rule}`)}>About this rule</a>
      {/snippet}
    </Finding>
  {/each}
  {#if facts.length > 0}<h3 class="mt-3 mb-1 heading">{host.host}</h3>
    <FactTable {facts} />{/if}
  {#if host.disks.length > 0}
    <h3 class="mt-3 mb-1 heading">Disks</h3>
    <FactTable
      facts={host.disks.map(({ name, inBytes, outBytes, busy }) => [
        name,
        `${rateText(inBytes)} read, ${rateText(outBytes)} written`,
        busy === null ? '' : `${formatShare(busy)} busy`
      ])}
    />
  {/if}
  {#if host.fileSystems.length > 0}
    <h3 class="mt-3 mb-1 heading">File systems</h3>
    <FactTable
      facts={host.fileSystems.map(({ mount, usedBytes, limitBytes }) => [
        mount,
        `${formatBytes(usedBytes)} of ${formatBytes(limitBytes)}`,
        formatShare(usedBytes / limitBytes)
      ])}
    />
  {/if}
  {#if host.interfaces.length > 0}
    <h3 class="mt-3 mb-1 heading">Network</h3>
    <FactTable
      facts={host.interfaces.map(({ name, inBytes, outBytes, errors }) => [
        name,
        `${rateText(inBytes)} in, ${rateText(outBytes)} out`,
        errors ? `${errors.toFixed(1)} errors/s` : ''
      ])}
    />
  {/if}
{/if}
{#if refused.length > 0}
  <h3 class="mt-3 mb-1 heading">Not kept</h3>
  {#each refused as { name, service, host: of, reason, points } (`${name} ${service} ${of} ${reason}`)}
    <p class="mt-1 text-[11px] text-ink-2">
      {plural(points, 'point')} of <code class="num">{name}</code> of {service} on {of}: {reason}.
    </p>
  {/each}
{/if}
