<script lang="ts">
  import { Popover } from 'bits-ui';
  import { groupBy } from '@tromix/core/group-by';
  import { plural } from '@tromix/core/text/format';
  import { LASTS, type Last, type Scope, type TimeWindow } from '$lib/scope';
  import type { HourOfData } from '$lib/server/queries/data-range';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { dayOf, fieldTime, timeFromField } from '$lib/ui/kit/time';

  /** Chooses the time range: a moving one, a day that has data, or any from and to. */
  interface Props {
    shown: string;
    scope: Scope;
    window: TimeWindow;
    onchange: (change: Partial<Scope>) => void;
  }
  let { shown, scope, window, onchange }: Props = $props();
  let open = $state(false);
  let from = $derived(fieldTime(window.fromUs / 1000));
  let to = $derived(fieldTime(window.toUs / 1000));
  const typed = $derived({ from: timeFromField(from), to: timeFromField(to) });
  const isValid = $derived(typed.from < typed.to);

  const HOUR_MS = 3_600_000;
  const hours = resource(
    () => (open ? 'hours' : null),
    (_, signal) => send<HourOfData[]>('GET', '/api/days', undefined, signal)
  );
  /** Days of the reader’s own time zone, the newest first. */
  const days = $derived(
    [...groupBy(hours.value ?? [], ([at]) => dayOf(at))].map(([day, list]) => ({
      day,
      requests: list.reduce((sum, [, count]) => sum + count, 0),
      from: Math.min(...list.map(([at]) => at)),
      to: Math.max(...list.map(([at]) => at)) + HOUR_MS
    }))
  );

  function choose(change: Partial<Scope>): void {
    open = false;
    onchange(change);
  }
  function apply(event: SubmitEvent): void {
    event.preventDefault();
    if (isValid) choose(typed);
  }
</script>

<Popover.Root bind:open>
  <Popover.Trigger
    class="truncate border-b-[1.5px] border-dotted border-steer py-px font-semibold text-ink hover:bg-steer-soft data-[state=open]:bg-steer-soft"
    aria-label="Time: {shown}">{shown}</Popover.Trigger
  >
  <Popover.Portal>
    <Popover.Content
      class="pop max-h-[70vh] w-[420px] overflow-y-auto p-3"
      align="start"
      sideOffset={4}
      role="dialog"
      aria-label="Time"
    >
      <div class="grid grid-cols-[130px_1fr] gap-x-4">
        <div>
          <h2 class="mb-1 heading">Until now</h2>
          {#each Object.entries(LASTS) as [value, label] (value)}
            <button
              class="block w-full rounded-[3px] px-1.5 py-0.5 text-left hover:bg-steer-soft aria-pressed:font-semibold"
              aria-pressed={scope.from === undefined && scope.last === value}
              onclick={() => choose({ last: value as Last, from: undefined, to: undefined })}
              >the last {label}</button
            >
          {/each}
        </div>
        <div>
          <h2 class="mb-1 heading">From, to</h2>
          <form class="grid gap-1.5" onsubmit={apply}>
            <input
              class="field num"
              type="datetime-local"
              step="1"
              aria-label="From"
              required
              bind:value={from}
            />
            <input
              class="field num"
              type="datetime-local"
              step="1"
              aria-label="To"
              required
              bind:value={to}
            />
            {#if !isValid}<p class="text-[11px] text-alarm" role="alert">
                The end must be after the start.
              </p>{/if}
            <button class="button justify-self-start button-solid" disabled={!isValid}>Show this time</button>
          </form>
          <h2 class="mt-3 mb-1 heading">Days with requests</h2>
          <div class="max-h-40 overflow-y-auto">
            {#each days as { day, requests, from: first, to: last } (day)}
              <button
                class="flex w-full justify-between gap-3 rounded-[3px] px-1.5 py-0.5 text-left hover:bg-steer-soft"
                onclick={() => choose({ from: first, to: last })}
                ><span>{day}</span><span class="num text-ink-3">{plural(requests, 'request')}</span></button
              >
            {:else}
              {#if hours.value}<p class="text-ink-3">None yet.</p>{:else}<Asking of={hours} />{/if}
            {/each}
          </div>
        </div>
      </div>
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
