<script lang="ts">
  import type { DifferenceLedger, DifferenceLine } from '@tromix/core/compare/difference-ledger';
  import { lineName, signedDuration } from '@tromix/core/compare/words';
  import type { Side } from '@tromix/core/sides';
  import { toCsv } from '@tromix/core/text/csv';
  import { formatDuration } from '@tromix/core/text/format';
  import ExportMenu from '$lib/ui/kit/ExportMenu.svelte';
  import { saveText } from '$lib/ui/kit/save-text';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import type { Snippet } from 'svelte';
  import { foldLines, lineAccount, shortName, sumOfLines } from './ledger-lines';

  interface Props {
    ledger: DifferenceLedger;
    /** Only calls, and then no sum: it would not be that of the request. */
    only?: (line: DifferenceLine) => boolean;
    /** How the lines may be told apart. */
    choices?: Snippet;
    title: string;
    /** What opens below a line; null for lines that hold nothing. */
    below?: Snippet<[DifferenceLine]>;
    opens?: (line: DifferenceLine) => boolean;
    /** Lines that are open, by their keys. */
    unfolded?: string[];
    /** Every line stands in it. */
    all: boolean;
    onall: () => void;
  }
  let {
    ledger,
    only,
    choices,
    title,
    below,
    opens = () => false,
    unfolded = $bindable([]),
    all,
    onall
  }: Props = $props();
  const MOST = 14;
  const lines = $derived(only ? ledger.lines.filter(only) : ledger.lines);
  const folded = $derived(foldLines(lines, all ? Infinity : MOST));
  const rest = $derived(sumOfLines(folded.rest));
  const sum = $derived(sumOfLines(ledger.lines));
  const greatest = $derived(Math.max(1, ...ledger.lines.map(({ differenceNs }) => Math.abs(differenceNs))));

  const each = (line: DifferenceLine, side: Side): string => {
    const { calls, ns } = line.perRequest[side];
    if (!line.parts[side]) return '–';
    return line.parts[side].kind === line.parts[side].name
      ? formatDuration(ns)
      : `${Number(calls.toPrecision(3))} × ${formatDuration(ns / calls)}`;
  };
  const zero = (ns: number): string => (Math.abs(ns) < 0.5 ? '0' : signedDuration(ns));
  const sureWords = ({ p, clear }: DifferenceLine): string =>
    Number.isNaN(p) ? 'not told' : clear ? 'clear' : 'unclear';
  const sureTitle = ({ p }: DifferenceLine): string =>
    Number.isNaN(p)
      ? 'Too few requests, or only their sums are kept'
      : `Probability of such a difference by chance: ${p < 0.0001 ? 'less than 0.0001' : p.toFixed(4)}; judged among all lines (Benjamini–Hochberg)`;
  const idOf = ({ parts: { before, after } }: DifferenceLine): string =>
    JSON.stringify([before?.kind, before?.name, after?.kind, after?.name]);
  /** Short enough to stand in an address: lines whose statements begin alike open together. */
  const keyOf = ({ parts: { before, after } }: DifferenceLine): string =>
    [before, after].map((part) => (part ? `${part.kind} ${part.name.slice(0, 60)}` : '')).join('→');
  const toggle = (key: string): void =>
    void (unfolded = unfolded.includes(key) ? unfolded.filter((one) => one !== key) : [...unfolded, key]);

  const exports = $derived([
    {
      name: 'Figures, CSV',
      run: () =>
        saveText(
          'difference.csv',
          toCsv(
            [
              'part',
              'kind',
              'callsBefore',
              'nsBefore',
              'callsAfter',
              'nsAfter',
              'byHowOftenNs',
              'byHowLongEachNs',
              'differenceNs',
              'p',
              'clear'
            ],
            lines.map((line) => [
              lineName(line),
              (line.parts.after ?? line.parts.before)!.kind,
              line.perRequest.before.calls,
              line.perRequest.before.ns,
              line.perRequest.after.calls,
              line.perRequest.after.ns,
              line.byHowOftenNs,
              line.byHowLongEachNs,
              line.differenceNs,
              Number.isNaN(line.p) ? '' : line.p,
              String(line.clear)
            ])
          )
        )
    }
  ]);
</script>

{#snippet change(ns: number)}
  <td class="relative w-32 px-2 text-right num whitespace-nowrap">
    <i
      class="absolute inset-y-[4px] right-0 {ns < 0 ? 'bg-steer-soft' : 'bg-pen-soft'}"
      style:width="{Math.abs(ns) < 0.5 ? 0 : Math.max(1, (Math.abs(ns) / greatest) * 100)}%"
      aria-hidden="true"
    ></i><span class="relative">{zero(ns)}</span>
  </td>
{/snippet}

<div class="flex flex-wrap items-baseline gap-x-3 px-4 py-1.5 text-ink-2">
  <h2 class="text-[13px] text-ink">{title}</h2>
  {@render choices?.()}
  <span class="ml-auto"><ExportMenu {exports} /></span>
</div>
<table class="w-full border-collapse bg-sheet" aria-label={title}>
  <thead>
    <tr class="border-y border-rule">
      <th class="column">part</th><th class="column text-right">A, a request</th><th class="column text-right"
        >B, a request</th
      ><th class="column text-right">by how often</th><th class="column text-right">by how long each</th><th
        class="column text-right">change</th
      ><th class="column text-right">sure</th>
    </tr>
  </thead>
  <tbody>
    {#each folded.shown as line (idOf(line))}
      {@const account = lineAccount(line)}
      {@const key = keyOf(line)}
      <tr class="border-b border-grid">
        <td class="max-w-0 min-w-36 px-2 py-1">
          <span class="flex min-w-0 items-center">
            {#if account}<AccountChip {account} />{/if}
            {#if below && opens(line)}
              <button
                class="min-w-0 truncate text-left num hover:underline"
                aria-expanded={unfolded.includes(key)}
                title={lineName(line)}
                onclick={() => toggle(key)}>{unfolded.includes(key) ? '▾' : '▸'} {shortName(line)}</button
              >
            {:else}<span class="min-w-0 truncate num" title={lineName(line)}>{shortName(line)}</span>{/if}
          </span>
        </td>
        <td class="px-2 text-right num whitespace-nowrap">{each(line, 'before')}</td>
        <td class="px-2 text-right num whitespace-nowrap">{each(line, 'after')}</td>
        <td class="px-2 text-right num whitespace-nowrap">{zero(line.byHowOftenNs)}</td>
        <td class="px-2 text-right num whitespace-nowrap">{zero(line.byHowLongEachNs)}</td>
        {@render change(line.differenceNs)}
        <td class="px-2 text-right text-ink-3" title={sureTitle(line)}>{sureWords(line)}</td>
      </tr>
      {#if below && unfolded.includes(key)}
        <tr class="border-b border-grid"><td colspan="7" class="p-0 pl-6">{@render below(line)}</td></tr>
      {/if}
    {/each}
    {#if folded.rest.length > 0}
      <tr class="border-b border-grid text-ink-2">
        <td class="px-2 py-1"
          ><button class="hover:underline" onclick={onall}>{folded.rest.length} more</button></td
        >
        <td class="px-2 text-right num">{formatDuration(rest.ns.before)}</td>
        <td class="px-2 text-right num">{formatDuration(rest.ns.after)}</td>
        <td class="px-2 text-right num">{zero(rest.byHowOftenNs)}</td>
        <td class="px-2 text-right num">{zero(rest.byHowLongEachNs)}</td>
        {@render change(rest.differenceNs)}
        <td></td>
      </tr>
    {/if}
    {#if !only}
      <tr class="border-b border-rule font-semibold">
        <td class="px-2 py-1">sum</td>
        <td class="px-2 text-right num">{formatDuration(ledger.averageNs.before)}</td>
        <td class="px-2 text-right num">{formatDuration(ledger.averageNs.after)}</td>
        <td class="px-2 text-right num">{zero(sum.byHowOftenNs)}</td>
        <td class="px-2 text-right num">{zero(sum.byHowLongEachNs)}</td>
        <td
          class="px-2 text-right num whitespace-nowrap {ledger.differenceNs < 0
            ? 'text-ok'
            : ledger.differenceNs > 0
              ? 'text-alarm'
              : ''}"
          >{ledger.differenceNs < 0 ? '▼ ' : ledger.differenceNs > 0 ? '▲ ' : ''}{zero(
            ledger.differenceNs
          )}</td
        >
        <td></td>
      </tr>
    {/if}
  </tbody>
</table>
{#if lines.length === 0}<p class="px-4 py-2 text-ink-3">There are none on either side.</p>{/if}
