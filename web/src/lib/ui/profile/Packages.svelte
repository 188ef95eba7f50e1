<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import type { PackageWeight } from '@tromix/core/profile/packages';
  import type { OriginsOverTime as Origins } from '@tromix/core/profile/strip';
  import { formatCount, formatShare } from '@tromix/core/text/format';
  import { toCsv } from '@tromix/core/text/csv';
  import { saveText } from '$lib/ui/kit/save-text';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
  import { originName } from './origin-names';
  import OriginsOverTime from './OriginsOverTime.svelte';
  import { formatWeight } from '@tromix/core/profile/units';
  import type { NamedAct } from './profile-state';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    origins: Origins | null;
    onact: (act: NamedAct) => void;
  }
  let { opened, view, origins, onact }: Props = $props();

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
  {#if opened.durationNs > 0}
    <!-- The chart has its room before it is drawn. -->
    <div class="min-h-[183px] flex-none border-b border-rule pt-1">
      {#if origins}<OriginsOverTime {origins} />{/if}
    </div>
  {/if}
  <ScrollRegion label="Packages">
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
  </ScrollRegion>
</div>
