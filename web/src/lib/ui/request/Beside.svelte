<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { preloadData } from '$app/navigation';
  import { words, type Words } from '@tromix/core/text/words';
  import { align, worstOf, type AlignedRow } from '@tromix/core/trace/align';
  import { changeOf, eachSide } from '@tromix/core/sides';
  import { formatCount, formatDuration } from '@tromix/core/text/format';
  import type { RequestPage } from '$lib/server/queries/request-page';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { shortStatement } from '$lib/ui/calls/short-statement';
  import { exactTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';
  import { modelOf, type RequestModel } from './request-model';

  /** Another request held beside this one: a normal one of its endpoint, or one that was named. */
  interface Props {
    model: RequestModel;
    /** The end of its address. */
    other: { path: string; isNormal: boolean };
    /** Rows that are alike are listed too. */
    alike: boolean;
  }
  let { model, other: named, alike = $bindable() }: Props = $props();
  const noun = $derived(named.isNormal ? 'normal' : 'other');

  // Once for each normal request: it does not change with what else stands in the URL.
  const asked = resource(
    () => named.path,
    async (path) => {
      const loaded = await preloadData(viewLink(`/requests/${path}`));
      if (loaded.type !== 'loaded' || loaded.status !== 200)
        throw new Error('This request is no longer kept.');
      return modelOf((loaded.data as { request: RequestPage }).request);
    }
  );
  const other = $derived(asked.value);

  const rows = $derived(
    other
      ? align(eachSide({ before: other, after: model }, ({ trace, root }) => ({ tree: trace.tree, root })))
      : []
  );
  const shown = $derived(alike ? rows : rows.filter(({ verdict }, i) => i === 0 || verdict !== 'alike'));
  const VERDICTS: Record<AlignedRow['verdict'], { text: string; tone: string }> = {
    extra: { text: '+ only here', tone: 'text-alarm' },
    missing: { text: '− only there', tone: 'text-steer' },
    more: { text: '▲ more calls', tone: 'text-alarm' },
    fewer: { text: '▼ fewer calls', tone: 'text-ok' },
    slower: { text: '▲ slower', tone: 'text-alarm' },
    faster: { text: '▼ faster', tone: 'text-ok' },
    alike: { text: '=', tone: 'text-ink-3' }
  };
  const worst = $derived(worstOf(rows));
  const sentence = $derived.by((): Words => {
    if (!other) return [];
    const head = words`This request took ${[formatDuration(model.request.durationNs)]}, the ${noun} one ${[formatDuration(other.request.durationNs)]}.`;
    if (!worst) return [...head, ' No span here is clearly slower, more frequent or extra.'];
    const name = shortStatement(worst.label);
    const label = name.length > 70 ? `${name.slice(0, 69)}…` : name;
    return [
      ...head,
      ...words` What differs most is ${[label]}: ${formatCount(worst.after.nodes.length)} calls against ${formatCount(worst.before.nodes.length)}, ${formatDuration(worst.after.ns)} against ${formatDuration(worst.before.ns)}.`
    ];
  });
  const accountOf = (row: AlignedRow) =>
    row.verdict === 'missing'
      ? other!.trace.tree.nodes[row.before.nodes[0]].account
      : model.trace.tree.nodes[row.after.nodes[0]].account;
</script>

{#if !other}
  <Asking of={asked} doing="Reading the {noun} request…" />
{:else}
  <div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 px-4 pt-1 pb-1.5">
    <Sentence text={sentence} />
    <label class="ml-auto flex flex-none items-center gap-1 text-ink-2"
      ><input type="checkbox" bind:checked={() => !alike, (only) => (alike = !only)} /> only what differs</label
    >
    <a class="button flex-none" href={viewLink(`/requests/${named.path}`)}
      >Open the {noun} one of {exactTime(other.startUs / 1000)}</a
    >
  </div>
  <ScrollRegion label="Beside a {noun} request" class="border-t border-rule bg-sheet">
    <table class="w-full border-collapse">
      <thead class="sticky top-0 bg-sheet"
        ><tr class="border-b border-rule"
          ><th class="column">span</th><th class="column text-right" colspan="2">this request</th><th
            class="column text-right"
            colspan="2">{named.isNormal ? 'a normal one' : 'the other one'}</th
          ><th class="column text-right">difference</th><th class="column">what differs</th></tr
        ></thead
      >
      <tbody>
        {#each shown as row, i (i)}
          {@const verdict = VERDICTS[row.verdict]}
          {@const change = changeOf(row, ({ ns }) => ns)}
          <tr class="border-b border-grid">
            <td
              class="max-w-0 min-w-40 py-1"
              style:width="44%"
              style:padding-left="{10 + Math.min(row.depth, 12) * 12}px"
              ><span class="flex items-center" title={row.label}
                ><AccountChip account={accountOf(row)} /><span class="truncate num"
                  >{shortStatement(row.label)}</span
                ></span
              ></td
            >
            {#each [row.after, row.before] as { nodes, ns }, side (side)}
              <td class="px-1 text-right num whitespace-nowrap text-ink-2"
                >{nodes.length > 0 ? `${formatCount(nodes.length)}×` : ''}</td
              >
              <td class="px-2 text-right num whitespace-nowrap"
                >{nodes.length > 0 ? formatDuration(ns) : '–'}</td
              >
            {/each}
            <td class="px-2 text-right num whitespace-nowrap"
              >{change > 0 ? '+' : ''}{formatDuration(change)}</td
            >
            <td class="px-2 whitespace-nowrap {verdict.tone}">{verdict.text}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </ScrollRegion>
{/if}
