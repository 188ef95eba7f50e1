<script lang="ts">
  import type { PackageWeight } from '@tromix/core/profile/packages';
  import type { OriginsOverTime } from '@tromix/core/profile/strip';
  import { formatCount, formatShare } from '@tromix/core/text/format';
  import { saveText, toCsv } from '$lib/ui/kit/csv';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
  import { originName, ORIGIN_TINTS } from './origin-names';
  import { formatWeight } from '@tromix/core/profile/units';
  import type { NamedAct } from './profile-state';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    origins: OriginsOverTime | null;
    onact: (act: NamedAct) => void;
  }
  let { opened, view, origins, onact }: Props = $props();

  const HEIGHT = 132;
  let width = $state(800);
  const sums = $derived(origins?.weights.map((bins) => bins.reduce((sum, weight) => sum + weight, 0)) ?? []);
  /** The heaviest origins each get a band; the rest are one. */
  const bands = $derived.by(() => {
    if (!origins) return [];
    const order = origins.origins
      .map((origin, i) => ({ origin, i }))
      .filter(({ origin, i }) => origin.kind !== 'root' && origin.kind !== 'idle' && sums[i] > 0)
      .sort((a, b) => sums[b.i] - sums[a.i]);
    const shown = order.slice(0, ORIGIN_TINTS.length - 1);
    const rest = order.slice(ORIGIN_TINTS.length - 1);
    const bins = origins.weights[0]?.length ?? 0;
    const list = shown.map(({ origin, i }) => ({ name: originName(origin), weights: origins.weights[i] }));
    if (rest.length > 0) {
      const weights = new Float64Array(bins);
      for (const { i } of rest) origins.weights[i].forEach((weight, bin) => (weights[bin] += weight));
      list.push({ name: `${formatCount(rest.length)} more`, weights });
    }
    const below = new Float64Array(bins);
    return list.map(({ name, weights }, band) => {
      const y = (weight: number): string =>
        (HEIGHT - 6 - (weight / origins.binNs) * (HEIGHT - 24)).toFixed(1);
      const x = (bin: number): string => ((bin / bins) * width).toFixed(1);
      let top = '';
      let bottom = '';
      for (let bin = 0; bin < bins; bin++) {
        // The lower edge is gone back from right to left.
        bottom = `L${x(bin + 1)} ${y(below[bin])}L${x(bin)} ${y(below[bin])}${bottom}`;
        below[bin] += weights[bin];
        top += `${bin === 0 ? 'M' : 'L'}${x(bin)} ${y(below[bin])}L${x(bin + 1)} ${y(below[bin])}`;
      }
      return { name, path: `${top}${bottom}Z`, tint: ORIGIN_TINTS[band] };
    });
  });
  const actOf = (act: NamedAct['act'], row: PackageWeight): NamedAct =>
    row.kind === 'dependency'
      ? { act, by: 'package', name: row.package }
      : { act, by: 'kind', name: row.kind };

  function exportCsv(): void {
    saveText(
      'packages.csv',
      toCsv(
        ['kind', 'package', 'functions', 'self', 'total'],
        view.packages.map((row) => [
          row.kind,
          row.package,
          row.functions,
          Math.round(row.self),
          Math.round(row.total)
        ])
      )
    );
  }
</script>

<div class="flex min-h-0 flex-1 flex-col bg-sheet">
  {#if origins && opened.durationNs > 0}
    <figure class="flex-none border-b border-rule" bind:clientWidth={width}>
      <svg
        {width}
        height={HEIGHT}
        role="img"
        aria-label="CPU by origin of code over time, {bands.map(({ name }) => name).join(', ')}"
      >
        {#each bands as band (band.name)}<path d={band.path} fill={band.tint} />{/each}
      </svg>
      <figcaption class="flex flex-wrap gap-x-4 gap-y-0.5 px-4 pb-1.5 text-[11px]">
        {#each bands as band (band.name)}<span class="flex items-center gap-1.5"
            ><i class="inline-block size-2.5 rounded-[2px]" style:background={band.tint}></i>{band.name}</span
          >{/each}
      </figcaption>
    </figure>
  {/if}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="min-h-0 flex-1 overflow-auto" tabindex="0" role="region" aria-label="Packages">
    <table class="w-full border-collapse">
      <thead class="sticky top-0 z-10 bg-sheet">
        <tr class="border-b border-rule">
          <th class="column">origin of code</th>
          <th class="column text-right">self</th>
          <th class="column text-right">share</th>
          <th class="column text-right">with what it calls</th>
          <th class="column text-right">share</th>
          <th class="column text-right">functions</th>
          <th class="column text-right"><button class="hover:text-ink" onclick={exportCsv}>CSV</button></th>
        </tr>
      </thead>
      <tbody>
        {#each view.packages as row (`${row.kind} ${row.package}`)}
          <tr class="border-b border-grid whitespace-nowrap hover:bg-pen-soft">
            <td class="px-2 py-1.5 {row.kind === 'app' ? 'font-semibold' : ''}">{originName(row)}</td>
            <td class="px-2 text-right num">{formatWeight(row.self, opened)}</td>
            <td class="relative px-2 text-right num"
              ><i
                class="absolute inset-y-[3px] left-0 bg-pen-soft"
                style:width="{(row.self / view.sum) * 100}%"
              ></i><span class="relative">{formatShare(row.self / view.sum)}</span></td
            >
            <td class="px-2 text-right num">{formatWeight(row.total, opened)}</td>
            <td class="px-2 text-right num">{formatShare(row.total / view.sum)}</td>
            <td class="px-2 text-right num">{formatCount(row.functions)}</td>
            <td class="px-2 text-right">
              <button class="button px-1.5 py-[2px]" onclick={() => onact(actOf('only', row))}>Only</button>
              <button class="button px-1.5 py-[2px]" onclick={() => onact(actOf('fold', row))}>Fold</button>
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</div>
