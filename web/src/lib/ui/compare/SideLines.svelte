<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { Side, Sides } from '@tromix/core/sides';
  import { formatDuration } from '@tromix/core/text/format';
  import { comparedQuery, LEAVABLE, LEAVABLES, type Leavable } from '$lib/compared-scopes';
  import { scopeWindow, type Scope } from '$lib/scope';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import ScopeMenu from '$lib/ui/shell/ScopeMenu.svelte';

  /** The two scope sentences, each part of them changeable, and what is left out of both. */
  let { scopes, leave, nowMs }: { scopes: Sides<Scope>; leave: Leavable[]; nowMs: number } = $props();

  function change(next: Sides<Scope>, leaving = leave): void {
    const query = new URLSearchParams(comparedQuery(next, leaving));
    for (const name of ['show', 'ledger', 'curve'] as const) {
      const value = page.url.searchParams.get(name);
      if (value) query.set(name, value);
    }
    void goto(`/compare?${query}`, { keepFocus: true, noScroll: true });
  }
  export const swap = (): void => change({ before: scopes.after, after: scopes.before });
  /** A click on what is left out takes it in again. */
  const toggle = (what: Leavable): void =>
    change(scopes, leave.includes(what) ? leave.filter((one) => one !== what) : [...leave, what]);
  const long = (ms: number): string => formatDuration(ms * 1e6);
  const picks = ({ slower, faster }: Scope): string => {
    if (slower === undefined) return faster === undefined ? '' : `, at most ${long(faster)} long`;
    return faster === undefined
      ? `, ${long(slower)} and slower`
      : `, ${long(slower)} to ${long(faster)} long`;
  };
  const LINES: { side: Side; letter: string; lead: string; look: string }[] = [
    { side: 'before', letter: 'A', lead: 'from', look: 'bg-ink-2' },
    { side: 'after', letter: 'B', lead: 'to', look: 'bg-pen' }
  ];
</script>

<div class="grid min-w-0 gap-y-0.5">
  {#each LINES as { side, letter, lead, look } (side)}
    <div class="flex min-w-0 items-center gap-[5px]" role="group" aria-label="Side {letter}">
      <span
        class="mr-0.5 inline-grid size-[17px] flex-none place-items-center rounded-[3px] text-[11px] font-semibold text-sheet {look}"
        aria-hidden="true">{letter}</span
      >
      <ScopeLine
        which={['endpoint', 'service', 'host', 'release', 'time', 'run']}
        window={scopeWindow(scopes[side], nowMs)}
        of={scopes[side]}
        onchange={(one) => change({ ...scopes, [side]: { ...scopes[side], ...one } })}
        {lead}
      /><span class="-ml-1">{picks(scopes[side])}</span>
      {#if side === 'before'}
        <button class="ml-2 button px-1.5 py-0" title="Swap the sides (x)" onclick={swap}>Swap</button>
      {:else}
        <span class="-ml-1">, left out:</span>
        <ScopeMenu
          choice={{
            about: 'Left out of both',
            shown: leave.length === 0 ? 'nothing' : leave.map((what) => LEAVABLE[what]).join(', '),
            value: '',
            options: LEAVABLES.map((what) => ({
              label: leave.includes(what) ? `take in ${LEAVABLE[what]} again` : LEAVABLE[what],
              value: what
            }))
          }}
          onchoose={(what) => toggle(what as Leavable)}
        />
      {/if}
    </div>
  {/each}
</div>
