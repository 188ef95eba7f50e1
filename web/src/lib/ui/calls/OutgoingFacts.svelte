<script lang="ts">
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import type { CallHeaders } from '$lib/server/queries/calls/call-headers';
  import type { Outgoing } from '$lib/server/queries/calls/outgoing';
  import { statusName } from './kind-columns';
  import { phaseParts } from './phase-parts';
  import PhaseBar from './PhaseBar.svelte';

  /** Statuses, phases and headers of one kind of outgoing request. */
  let { outgoing, headers }: { outgoing: Outgoing; headers: CallHeaders } = $props();
  const phases = $derived(phaseParts(outgoing));
  const failed = (status: number): boolean => status >= 400;
</script>

<section class="border-b border-rule bg-sheet px-4 py-2" aria-label="Answers and phases">
  <h2 class="mb-1 text-[13px]">How it is answered</h2>
  <p class="flex flex-wrap gap-x-4 gap-y-1">
    {#each outgoing.statuses as { status, calls } (status)}
      <span
        ><b class="num {failed(status) ? 'text-alarm' : ''}">{statusName(status)}</b>
        <span class="text-ink-2">{plural(calls, 'call')}, {formatShare(calls / outgoing.calls)}</span></span
      >
    {/each}
    {#if outgoing.repeated > 0}<span
        ><b class="num">{formatCount(outgoing.repeated)}</b>
        <span class="text-ink-2">asked what an earlier call of the same request had asked</span></span
      >{/if}
  </p>
  {#if outgoing.phased > 0}
    <h2 class="mt-3 mb-1 text-[13px]">
      Phases <span class="font-normal text-ink-3"
        >on average, of {formatCount(outgoing.phased)} of {plural(outgoing.calls, 'call')} that tell them</span
      >
    </h2>
    <PhaseBar parts={phases} height={14} />
    <ul class="mt-1 flex flex-wrap gap-x-4">
      {#each phases as { name, ns, colour } (name)}
        <li class="flex items-center gap-1.5">
          <span class="size-[9px] flex-none" style:background-color={colour}></span>{name}
          <span class="num">{formatDuration(ns)}</span>
        </li>
      {/each}
    </ul>
  {:else}
    <p class="mt-2 text-[11px] text-ink-3">
      Its phases (name look-up, connect, TLS, first byte) are not told: they come from <code>tromix run</code
      >, from OpenTelemetry’s instrumentations of sockets and name look-ups, and from its SDK for browsers.
    </p>
  {/if}
  {#if headers.headers.length > 0}
    <h2 class="mt-3 mb-1 text-[13px]">
      Headers <span class="font-normal text-ink-3"
        >of the latest {plural(headers.looked, 'call')} that are kept</span
      >
    </h2>
    <table class="w-full">
      <tbody>
        {#each headers.headers as { of, name, values, different } (`${of} ${name}`)}
          <tr class="border-b border-grid align-baseline">
            <td class="w-20 py-0.5 text-ink-3">{of}</td>
            <th scope="row" class="py-0.5 pr-3 text-left num font-normal whitespace-nowrap">{name}</th>
            <td class="w-full py-0.5 num [overflow-wrap:anywhere]">
              {#each values as { value, calls }, i (value)}{i > 0 ? ' · ' : ''}{value}
                <span class="text-ink-3">× {formatCount(calls)}</span>{/each}
              {#if different > values.length}<span class="text-ink-3">
                  and {formatCount(different - values.length)} more</span
                >{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</section>
