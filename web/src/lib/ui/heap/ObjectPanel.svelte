<script lang="ts">
  import { formatBytes, formatCount } from '@tromix/core/text/format';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import type { HeapClient } from './heap-client';

  interface Props {
    client: HeapClient;
    object: number;
    onselect: (object: number) => void;
  }
  let { client, object, onselect }: Props = $props();

  const PAGE = 100;
  /** First field or element that is listed, and how many referrers; back at the start with another object. */
  let from: number = $derived((void object, 0));
  let most: number = $derived((void object, 20));
  const asked = resource(
    () => ({ client, object, from }),
    (of) => of.client.object(of.object, of.from),
    { keep: true }
  );
  const holders = resource(
    () => ({ client, object, most }),
    (of) => of.client.referrers(of.object, 0, of.most),
    { keep: true }
  );
  const below = resource(
    () => ({ client, object }),
    (of) => of.client.kept(of.object, 0, 1),
    { keep: true }
  );
  const facts = $derived(asked.value);
  const referrers = $derived(holders.value);
  const kept = $derived(below.value);
  const error = $derived(asked.error || holders.error || below.error);
  const short = (name: string): string => name.slice(name.lastIndexOf('.') + 1);
</script>

<section aria-label="Selected object">
  {#if error}<p class="text-alarm" role="alert">{error}</p>{/if}
  {#if facts}
    <h3 class="mt-3.5 mb-1 heading break-words">
      Selected: <span class="num text-ink">{short(facts.className)} #{facts.object}</span>
    </h3>
    <p class="mb-1 num break-all text-ink-2">{facts.className}{facts.own ? ', the program’s own' : ''}</p>
    {#if facts.text !== null}<p
        class="mb-1 max-h-24 overflow-y-auto rounded-[3px] border border-rule bg-paper p-1.5 num break-all whitespace-pre-wrap"
      >
        {facts.text}
      </p>{/if}
    <table class="w-full num">
      <tbody>
        {#each [['shallow', formatBytes(facts.shallow)], ['retained', formatBytes(facts.retained)], ...(facts.length >= 0 ? [['length', formatCount(facts.length)]] : []), ['id', facts.id.toString(16)]] as [name, value] (name)}
          <tr class="border-b border-grid"
            ><th scope="row" class="py-0.5 text-left font-normal text-ink-2">{name}</th><td class="text-right"
              >{value}</td
            ></tr
          >
        {/each}
        <tr class="border-b border-grid"
          ><th scope="row" class="py-0.5 text-left font-normal text-ink-2">kept by</th><td class="text-right"
            >{#if facts.keeper >= 0}<button
                class="text-steer underline underline-offset-2"
                onclick={() => onselect(facts!.keeper)}>#{facts.keeper}</button
              >{:else}{facts.keeper === -1 ? facts.root || 'roots' : 'nothing'}{/if}</td
          ></tr
        >
      </tbody>
    </table>
    <h3 class="mt-2.5 mb-0.5 heading">
      {facts.length >= 0 ? 'Elements' : 'Fields'} · {formatCount(facts.slotCount)}
    </h3>
    <table class="w-full table-fixed num">
      <tbody>
        {#each facts.slots as slot, i (i)}
          <tr class="border-b border-grid" class:opacity-60={slot.weak}>
            <th
              scope="row"
              class="truncate py-0.5 pr-2 text-left font-normal text-ink-2"
              title="{slot.name}: {slot.type}">{slot.name}</th
            >
            <td class="truncate text-right"
              >{#if slot.to >= 0}<button
                  class="max-w-full truncate text-steer underline underline-offset-2"
                  title="{facts.slotClasses[i]}{slot.weak ? ', does not keep it alive' : ''}"
                  onclick={() => onselect(slot.to)}
                  >{slot.weak ? 'weak ' : ''}{short(facts.slotClasses[i])}</button
                >{:else}<span title={slot.value}>{slot.value}</span>{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if facts.slotCount > PAGE}
      <p class="mt-1 flex items-center gap-2 text-[11px] text-ink-2">
        <button class="button" disabled={facts.from === 0} onclick={() => (from = Math.max(0, from - PAGE))}
          >Before</button
        >
        {formatCount(facts.from)}–{formatCount(Math.min(facts.slotCount, facts.from + PAGE))}
        <button class="button" disabled={facts.from + PAGE >= facts.slotCount} onclick={() => (from += PAGE)}
          >After</button
        >
      </p>
    {/if}
    {#if referrers}
      <h3 class="mt-2.5 mb-0.5 heading">Referred to by · {formatCount(referrers.total)}</h3>
      <ul class="num">
        {#each referrers.rows as row, i (i)}
          <li class="flex border-b border-grid">
            <button
              class="min-w-0 flex-1 truncate py-0.5 text-left text-steer underline underline-offset-2"
              title={row.className}
              onclick={() => onselect(row.object)}>{short(row.className)} #{row.object}</button
            ><span class="flex-none">{formatBytes(row.retained)}</span>
          </li>
        {/each}
      </ul>
      {#if referrers.rows.length < referrers.total}<button class="mt-1 button" onclick={() => (most += 100)}
          >More</button
        >{/if}
    {/if}
    {#if kept && kept.groups.length > 0}
      <h3 class="mt-2.5 mb-0.5 heading">Keeps · {formatCount(kept.total)}</h3>
      <ul class="num">
        {#each kept.groups.slice(0, 12) as group, i (i)}
          <li class="flex border-b border-grid">
            <button
              class="min-w-0 flex-1 truncate py-0.5 text-left text-steer underline underline-offset-2"
              title="{group.className}: show the one that retains most"
              onclick={() => onselect(group.sample)}
              >{short(group.className)} × {formatCount(group.count)}</button
            ><span class="flex-none">{formatBytes(group.retainedBytes)}</span>
          </li>
        {/each}
      </ul>
    {/if}
  {:else if !error}
    <p class="text-ink-3" role="status">Reading the object…</p>
  {/if}
</section>
