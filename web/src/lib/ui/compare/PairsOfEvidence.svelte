<script module lang="ts">
  import type { EvidenceKind } from '@tromix/core/evidence/kinds';

  /** Kinds of evidence of which two are held against each other: as the evidence names them, and several of them in words. */
  const PAIRS = {
    profiles: { of: 'profile', nouns: 'profiles' },
    heaps: { of: 'heap', nouns: 'heap dumps' },
    threads: { of: 'threads', nouns: 'thread dumps' }
  } as const satisfies Record<string, { of: EvidenceKind; nouns: string }>;
  export type PairKind = keyof typeof PAIRS;
  export const isPairKind = (name: string): name is PairKind => Object.hasOwn(PAIRS, name);
</script>

<script lang="ts">
  import { eachSide, type Side, type Sides } from '@tromix/core/sides';
  import { inScope } from '$lib/evidence/in-scope';
  import { scopeWindow, type Scope } from '$lib/scope';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { pairLink } from '$lib/ui/shell/links';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import { evidenceName } from './evidence-name';
  import { SIDE_LOOKS } from './side-looks';

  /** Evidence of one kind from either side, and where two of it are laid over each other. */
  interface Props {
    kind: PairKind;
    scopes: Sides<Scope>;
    nowMs: number;
  }
  let { kind, scopes, nowMs }: Props = $props();
  const nouns = $derived(PAIRS[kind].nouns);
  const all = resource(
    () => PAIRS[kind].of,
    (of, signal) =>
      send<EvidenceItem<EvidenceKind>[]>('GET', `/api/compare/evidence?kind=${of}`, undefined, signal)
  );
  const lists = $derived(
    eachSide(scopes, (scope) =>
      (all.value ?? []).filter((item) => inScope(item, scope, scopeWindow(scope, nowMs)))
    )
  );
  let chosen = $state<Sides<string>>({ before: '', after: '' });
  const pair = $derived(
    eachSide(lists, (list, side) =>
      list.some(({ id }) => id === chosen[side]) ? chosen[side] : (list[0]?.id ?? '')
    )
  );
  const isReady = $derived(pair.before !== '' && pair.after !== '' && pair.before !== pair.after);
  const missing = $derived(
    SIDE_LOOKS.filter(({ side }) => lists[side].length === 0).map(({ letter }) => letter)
  );
</script>

{#if !all.value}<Asking of={all} />
{:else if missing.length > 0}
  <Empty title="No {nouns} on side {missing.join(' and ')}">
    <p>
      {nouns[0].toUpperCase() + nouns.slice(1)} of the services, hosts, releases and times of both sides are needed.
      Take some while each side runs, or widen its sentence above.
    </p>
    <a class="button button-solid" href="/recorder">Go to the recorder</a>
  </Empty>
{:else}
  <div class="grid max-w-3xl gap-2 px-4 py-4">
    {#each SIDE_LOOKS as { side, letter } (side)}
      <label class="flex items-center gap-2"
        ><span class="w-4 font-semibold">{letter}</span>
        <select
          class="min-w-0 flex-1 field"
          value={pair[side as Side]}
          onchange={(event) => (chosen = { ...chosen, [side]: event.currentTarget.value })}
        >
          {#each lists[side as Side] as item (item.id)}<option value={item.id}>{evidenceName(item)}</option
            >{/each}
        </select></label
      >
    {/each}
    {#if isReady}<p>
        <a class="button button-solid" href={pairLink(kind, pair)}>Lay them over each other</a>
      </p>
    {:else}<p class="text-ink-2">Both sides have the same one: choose another, or other times above.</p>{/if}
  </div>
{/if}
