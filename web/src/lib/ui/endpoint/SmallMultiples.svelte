<script lang="ts">
  import { formatDuration, plural } from '@tromix/core/text/format';
  import type { SplitRow } from '$lib/server/queries/endpoint';
  import { changeLook, TONES } from '$lib/ui/kit/change';
  import { classesOf } from './duration-scale';

  /** One small distribution for each host or release, all on the same axis, so that the odd one is seen at once. */
  let { title, rows, hrefOf }: { title: string; rows: SplitRow[]; hrefOf: (name: string) => string } =
    $props();
  const WIDTH = 148;
  const HEIGHT = 26;
  const MOST = 24;
  const classes = $derived(classesOf(rows.map(({ histogram }) => histogram)));
  const bar = $derived(WIDTH / classes.count);
  const largestShare = $derived(
    Math.max(...rows.flatMap(({ histogram, count }) => histogram.map(([, part]) => part / count)))
  );
</script>

<h3 class="mb-1 heading">{title}, slowest median first, on one axis</h3>
<ul>
  {#each rows.slice(0, MOST) as row (row.name)}
    {@const change = changeLook(row.change, 'that of the others together')}
    <li>
      <a
        href={hrefOf(row.name)}
        class="grid grid-cols-[minmax(0,1fr)_148px_52px_52px_44px] items-end gap-1.5 border-b border-grid py-0.5 hover:bg-pen-soft"
        title="{plural(row.count, 'request')}. Against the others: {change.words}"
      >
        <span class="truncate pb-0.5">{row.name}</span>
        <svg width={WIDTH} height={HEIGHT} aria-hidden="true">
          {#each row.histogram as [at, count] (at)}
            {@const height = Math.max(1, (count / row.count / largestShare) * (HEIGHT - 2))}
            <rect
              x={(at - classes.first) * bar}
              y={HEIGHT - height}
              width={Math.max(1, bar - 0.5)}
              {height}
              fill={change.tone === 'worse' ? 'var(--pen)' : 'var(--steer)'}
            />
          {/each}
        </svg>
        <span class="pb-0.5 text-right num">{formatDuration(row.p50Ns)}</span>
        <span class="pb-0.5 text-right num text-ink-2">{formatDuration(row.p95Ns)}</span>
        <span class="pb-0.5 text-right num {TONES[change.tone]}"
          >{rows.length > 1 ? change.text : ''}<span class="sr-only">{change.words}</span></span
        >
      </a>
    </li>
  {/each}
</ul>
{#if rows.length > MOST}<p class="text-[11px] text-ink-3">{rows.length - MOST} more are not drawn.</p>{/if}
