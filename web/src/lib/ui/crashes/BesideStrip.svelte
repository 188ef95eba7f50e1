<script lang="ts">
  import { formatCount } from '@tromix/core/text/format';
  import type { Beside } from '$lib/server/queries/crash';
  import { clockTime } from '$lib/ui/kit/time';
  import { servedMinutes } from './crash-reading';

  /** Requests a minute around a crash: of the service on its host and elsewhere, and of the other services on that host. */
  let { beside, atUs, service, host }: { beside: Beside; atUs: number; service: string; host: string } =
    $props();
  const minutes = $derived(beside.to - beside.from);
  const rows = $derived([
    { name: `${service} on ${host || 'its host'}`, counts: beside.here },
    { name: `${service} elsewhere`, counts: beside.elsewhere },
    { name: `others on ${host || 'its host'}`, counts: beside.others }
  ]);
  const place = $derived(((atUs / 60e6 - beside.from) / minutes) * 100);
</script>

<table class="w-full" aria-label="Requests a minute around it">
  <thead>
    <tr class="border-b border-rule">
      <th class="w-44 column">requests a minute</th>
      <th class="column"
        ><span class="flex justify-between"
          ><span>{clockTime(beside.from * 60_000)}</span><span>{clockTime(beside.to * 60_000)}</span></span
        ></th
      >
      <th class="w-24 column text-right">minutes served</th>
    </tr>
  </thead>
  <tbody>
    {#each rows as { name, counts } (name)}
      {@const most = Math.max(1, ...counts)}
      <tr class="border-b border-grid">
        <th scope="row" class="max-w-0 truncate px-2 py-1 text-left font-normal" title={name}>{name}</th>
        <td class="px-2">
          <div class="relative flex h-6 items-end gap-px" aria-hidden="true">
            {#each counts as count, i (i)}<i
                class="flex-1 {count > 0 ? 'bg-steer' : 'bg-grid'}"
                style:height="{count > 0 ? Math.max(12, (count / most) * 100) : 6}%"
                title="{clockTime((beside.from + i) * 60_000)}: {formatCount(count)}"
              ></i>{/each}
            <i class="absolute inset-y-0 w-px bg-alarm" style:left="{place}%"></i>
          </div>
        </td>
        <td class="px-2 text-right num">{servedMinutes(counts)} of {minutes}</td>
      </tr>
    {/each}
  </tbody>
</table>
