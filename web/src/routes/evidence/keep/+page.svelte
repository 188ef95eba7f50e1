<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send, sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import TrashIcon from '@lucide/svelte/icons/trash';
  import { formatBytes, formatCount, formatShare, plural } from '@tromix/core/text/format';
  import type { KeepRule } from '@tromix/core/trace/keep-rules';
  import type { KeepPreview } from '$lib/server/queries/keep';
  import { dateTime } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const keep = $derived(data.keep);
  const KINDS: Record<KeepRule['when'], string> = {
    slower: 'slower than',
    failed: 'failed',
    endpoint: 'endpoint',
    host: 'host',
    attribute: 'attribute',
    'one-in': 'one in',
    'each-endpoint': 'some of each endpoint'
  };
  const FRESH: Record<KeepRule['when'], () => KeepRule> = {
    slower: () => ({ when: 'slower', ms: 1000 }),
    failed: () => ({ when: 'failed' }),
    endpoint: () => ({ when: 'endpoint', service: '', endpoint: '' }),
    host: () => ({ when: 'host', host: '' }),
    attribute: () => ({ when: 'attribute', name: 'user.id', value: '' }),
    'one-in': () => ({ when: 'one-in', n: 100 }),
    'each-endpoint': () => ({ when: 'each-endpoint', perHour: 10 })
  };
  let rules = $derived<KeepRule[]>(structuredClone(data.keep.rules));
  let added = $state<KeepRule['when']>('slower');
  const changed = $derived(JSON.stringify(rules) !== JSON.stringify(keep.rules));
  const preview = resource(
    () => JSON.stringify(rules),
    (asked, signal) => send<KeepPreview>('POST', '/api/keep-rules', JSON.parse(asked), signal),
    { keep: true, afterMs: 200 }
  );

  async function save(): Promise<void> {
    await sendAndSay('PUT', '/api/keep-rules', rules, 'These rules apply from now on.');
    await invalidate('tromix:keep');
  }
  const set = (i: number, change: Partial<KeepRule>): void => {
    rules = rules.map((rule, at) => (at === i ? ({ ...rule, ...change } as KeepRule) : rule));
  };
  const endpointValue = (rule: Extract<KeepRule, { when: 'endpoint' }>): string =>
    JSON.stringify([rule.service, rule.endpoint]);
</script>

<Page>
  {#snippet scope()}<span>Which requests are <b class="font-semibold text-ink">kept in full</b></span
    >{/snippet}
  {#snippet reading()}
    <p class="mb-2">
      {formatCount(keep.requests)} requests with all their spans are kept{keep.oldestUs
        ? `, the oldest of ${dateTime(keep.oldestUs / 1000)}`
        : ''}, in {formatBytes(keep.bytes)}.
    </p>
    <p class="mb-2">
      Every request is kept for {keep.graceMinutes} minutes and until its hour is over; then the rules decide. What
      they do not keep is still counted: overview, endpoints and calls show all of it.
    </p>
    <p class="text-[11px] text-ink-3">
      Requests go after {keep.days} days (TROMIX_KEEP_DAYS), the oldest first when the database grows beyond {formatBytes(
        keep.maxBytes
      )} (TROMIX_MAX_DB_BYTES). Roll-ups stay: minutes {keep.rollupDays[1]} days, hours {keep.rollupDays[60]} days,
      days {Math.round(keep.rollupDays[1440] / 365)} years.
    </p>
  {/snippet}
  <ScrollRegion label="Keep rules">
    <div class="max-w-3xl px-6 py-5">
      <h1 class="text-[18px]"><Hint of="keepRule">Keep rules</Hint></h1>
      <p class="mb-3 text-ink-2">
        A trace is kept whole as soon as one rule keeps one of its requests. Without any rule everything is
        kept.
      </p>
      <ol class="border-t border-rule">
        {#each rules as rule, i (i)}
          <li class="grid grid-cols-[150px_1fr_110px_auto] items-center gap-2 border-b border-grid py-1.5">
            <span>{KINDS[rule.when]}</span>
            <span class="flex items-center gap-1.5">
              {#if rule.when === 'slower'}
                <input
                  class="w-24 field text-right num"
                  type="number"
                  min="0"
                  aria-label="Milliseconds"
                  value={rule.ms}
                  oninput={(event) => set(i, { ms: event.currentTarget.valueAsNumber })}
                /> ms
              {:else if rule.when === 'one-in'}
                <input
                  class="w-24 field text-right num"
                  type="number"
                  min="1"
                  aria-label="One in"
                  value={rule.n}
                  oninput={(event) => set(i, { n: event.currentTarget.valueAsNumber })}
                /> traces
              {:else if rule.when === 'each-endpoint'}
                always
                <input
                  class="w-20 field text-right num"
                  type="number"
                  min="1"
                  aria-label="Requests an hour"
                  value={rule.perHour}
                  oninput={(event) => set(i, { perHour: event.currentTarget.valueAsNumber })}
                /> an hour
              {:else if rule.when === 'host'}
                <select
                  class="field"
                  aria-label="Host"
                  value={rule.host}
                  onchange={(event) => set(i, { host: event.currentTarget.value })}
                  ><option value="">choose a host</option>{#each data.names.hosts as host (host)}<option
                      value={host}>{host}</option
                    >{/each}</select
                >
              {:else if rule.when === 'endpoint'}
                <select
                  class="max-w-72 field"
                  aria-label="Endpoint"
                  value={endpointValue(rule)}
                  onchange={(event) => {
                    const [service, endpoint] = JSON.parse(event.currentTarget.value) as [string, string];
                    set(i, { service, endpoint });
                  }}
                  ><option value={JSON.stringify(['', ''])}>choose an endpoint</option
                  >{#each data.names.endpoints as one, i (i)}<option
                      value={JSON.stringify([one.service, one.name])}>{one.service} {one.name}</option
                    >{/each}</select
                >
              {:else if rule.when === 'attribute'}
                <input
                  class="w-36 field num"
                  list="keep-names"
                  aria-label="Attribute"
                  value={rule.name}
                  oninput={(event) => set(i, { name: event.currentTarget.value })}
                />
                =
                <input
                  class="w-36 field num"
                  aria-label="Value"
                  value={rule.value}
                  oninput={(event) => set(i, { value: event.currentTarget.value })}
                />
              {/if}
            </span>
            <span
              class="text-right num text-ink-2"
              title="Requests of the last hour this rule keeps by itself"
              >{preview.value?.byRule[i] === undefined ? '–' : formatCount(preview.value.byRule[i])}</span
            >
            <button
              class="button border-rule px-1.5 text-ink-2"
              aria-label="Remove the rule {KINDS[rule.when]}"
              onclick={() => (rules = rules.filter((_, at) => at !== i))}><TrashIcon size={13} /></button
            >
          </li>
        {:else}
          <li class="border-b border-grid py-2 text-ink-3">No rule: everything is kept.</li>
        {/each}
      </ol>
      <datalist id="keep-names"
        >{#each data.attributeNames as { name } (name)}<option value={name}></option>{/each}</datalist
      >
      <div class="mt-2 flex items-center gap-1.5">
        <select class="field" aria-label="Kind of rule" bind:value={added}>
          {#each Object.entries(KINDS) as [key, name] (key)}<option value={key}>{name}</option>{/each}
        </select>
        <button class="button" onclick={() => (rules = [...rules, FRESH[added]()])}>Add a rule</button>
      </div>
      <p class="mt-4 min-h-[2lh] text-[14px]" aria-live="polite" data-testid="keep-preview">
        {#if preview.error}<span class="text-alarm">{preview.error}</span>
        {:else if preview.value}
          {@const { kept, of, counted } = preview.value}
          These rules would have kept <b class="num">{formatCount(kept)}</b> of
          <b class="num">{formatCount(of)}</b> requests of the last hour{of > 0
            ? `, ${formatShare(kept / of)}`
            : ''}.
          {#if counted > of}<span class="text-ink-3"
              >{plural(counted, 'request')} were counted; the others are gone already.</span
            >{/if}
        {:else}…{/if}
      </p>
      <div class="mt-2 flex gap-1.5">
        <button
          class="button button-solid"
          disabled={!changed || preview.error !== ''}
          onclick={() => void save()}>Save the rules</button
        >
        <button class="button" disabled={!changed} onclick={() => (rules = structuredClone(keep.rules))}
          >Discard</button
        >
      </div>
    </div>
  </ScrollRegion>
</Page>
