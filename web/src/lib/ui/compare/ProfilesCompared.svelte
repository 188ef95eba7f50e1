<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { differenceReading, type Scaling } from '@tromix/core/profile/difference-reading';
  import { changeOf, eachSide, greaterOf, type Side, type Sides } from '@tromix/core/sides';
  import { formatShare } from '@tromix/core/text/format';
  import ChangeTable from '$lib/ui/compare/ChangeTable.svelte';
  import { PROFILES_PARAMS, type ProfilesState } from '$lib/ui/compare/profiles-state';
  import { CompareClient } from '$lib/ui/compare/compare-client.svelte';
  import type { SideSource } from '$lib/workers/compare.worker';
  import FlameGraph from '$lib/ui/profile/FlameGraph.svelte';
  import type { FlameView } from '$lib/ui/profile/flame-painter';
  import type { Zoom } from '$lib/ui/profile/flame-view';
  import { nameOf } from '$lib/ui/profile/profile-state';
  import { placeOf } from '$lib/ui/profile/profile-reading';
  import { formatWeight } from '@tromix/core/profile/units';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';

  /** Two profiles held against each other: two recordings, or what the recordings of two scopes come to. */
  interface Props {
    /** What is opened on each side; null while something is still to be chosen. The same value for as long as it is the same. */
    sources: Sides<SideSource> | null;
    /** Requests each side is of, where the server knows; the sums of a scope know their own. */
    requests?: Sides<number>;
    /** What is looked at, and what else is to be said of both. */
    scope: Snippet;
    about: Snippet<[{ durationsNs: Sides<number>; requests: Sides<number> }]>;
    /** What there is before both are chosen: in the reading, and in the place of the picture. */
    unchosen: Snippet;
    empty: Snippet;
  }
  let { sources, requests: known, scope, about, unchosen, empty }: Props = $props();
  screenKeys([
    { keys: '↑ ↓ ← →', does: 'in the picture: caller, callee, neighbours' },
    { keys: 'Enter · 0', does: 'zoom to the frame, show all' }
  ]);

  let client = $state.raw<CompareClient | null>(null);
  let flame = $state<ReturnType<typeof FlameGraph> | null>(null);
  let selected = $state(-1);
  $effect(() => {
    if (!sources) return;
    const opening = new CompareClient(sources);
    client = opening;
    selected = -1;
    return () => opening.close();
  });

  const address = urlState(PROFILES_PARAMS, (): Partial<ProfilesState> => ({ zoom, chosen: chosenName }));
  let zoom: Zoom = $derived(address.shown.zoom);
  noteChosen(address);

  const durations = $derived(client?.durationsNs ?? null);
  const byTime = $derived(durations !== null && Math.min(durations.before, durations.after) > 0);
  const requests = $derived(client?.requests ?? known ?? { before: 0, after: 0 });
  const byRequests = $derived(Math.min(requests.before, requests.after) > 0);
  const scalings = $derived<Scaling[]>([
    'share',
    ...(byTime ? ['time' as const] : []),
    ...(byRequests ? ['requests' as const] : [])
  ]);
  /** Sums of scopes know their requests: their figures are of one. */
  const suits = $derived<Scaling>(client?.requests ? 'requests' : byTime ? 'time' : 'share');
  const scaling = $derived(scalings.find((one) => one === address.shown.by) ?? suits);
  /** What each side's weights are divided by. */
  const PER: Record<Scaling, (side: Side) => number> = {
    share: () => 0,
    time: (side) => (durations?.[side] ?? 0) / 1e9,
    requests: (side) => requests[side]
  };
  const comparison = resource(
    () =>
      client && durations ? { client, per: eachSide(durations, (_, side) => PER[scaling](side)) } : null,
    (asked) => asked.client.service.compare(asked.per),
    { keep: true }
  );
  const compared = $derived(comparison.value);
  const error = $derived(client?.error || comparison.error);
  const view = $derived<FlameView | null>(
    compared && {
      layout: compared.layout,
      nodeFrame: compared.nodeFrame,
      nodeParent: compared.nodeParent,
      self: compared.after.self,
      total: compared.after.total,
      sum: greaterOf(compared, ({ sum }) => sum),
      tookMs: 0
    }
  );
  const words = (weight: number): string =>
    scaling === 'share' || !compared ? formatShare(weight) : formatWeight(weight, compared);
  const changeAt = (node: number): number => (compared ? changeOf(compared, ({ total }) => total[node]) : 0);
  const widthAt = (node: number): number => (compared ? greaterOf(compared, ({ total }) => total[node]) : 0);
  const signed = (change: number): string => `${change > 0 ? '▲ +' : '▼ −'}${words(Math.abs(change))}`;
  const name = (frame: number): string => {
    const known = compared!.frames[frame];
    const place = placeOf(known);
    return `${known.name}${place ? ` (${place})` : ''}`;
  };
  const selectedFrame = $derived(compared && selected >= 0 ? (compared.nodeFrame[selected] ?? -1) : -1);
  /** By its name: numbers of functions belong to one reading of the files. */
  const chosenName = $derived(
    compared && selectedFrame >= 0 ? nameOf(compared.frames[selectedFrame]) : address.shown.chosen
  );

  function selectFunction(frame: number, keepZoom = false): void {
    if (!compared) return;
    let best = -1;
    compared.nodeFrame.forEach((own, node) => {
      if (own === frame && (best < 0 || widthAt(node) > widthAt(best))) best = node;
    });
    selected = best;
    flame?.show(best, keepZoom);
  }
  /** What a link chose is chosen once the picture is there. */
  $effect(() => {
    if (!compared) return;
    const frame = untrack(() =>
      selected < 0 ? compared.frames.findIndex((one) => nameOf(one) === address.shown.chosen) : -1
    );
    if (frame >= 0) untrack(() => selectFunction(frame, true));
  });
  const SCALINGS: Record<Scaling, string> = {
    share: 'by share',
    time: 'per second',
    requests: 'per request'
  };
</script>

<Page {scope}>
  {#snippet reading()}
    {#if error}<p class="text-alarm" role="alert">{error}</p>
    {:else if compared}
      {#each differenceReading( eachSide(compared, ({ sum }) => sum), compared.changes, scaling, { weight: words, name } ) as sentence, i (i)}<Sentence
          text={sentence}
        />{/each}
      {@render about({ durationsNs: compared.durationsNs, requests })}
      {#if selectedFrame >= 0}
        {@const known = compared.frames[selectedFrame]}
        <section aria-label="Selected">
          <h3 class="mt-3 mb-1 heading">Selected</h3>
          <p class="num font-semibold break-words">{known.name}</p>
          <p class="mb-1 num break-words text-ink-2">{placeOf(known)}</p>
          <p class="num">
            here before {words(compared.before.total[selected])}, after {words(
              compared.after.total[selected]
            )}
          </p>
          <p class="num">{signed(changeAt(selected))}</p>
        </section>
      {/if}
    {:else if sources}<p class="text-ink-3">Reading both…</p>
    {:else}{@render unchosen()}{/if}
  {/snippet}

  {#if !sources}
    {@render empty()}
  {:else if error}
    <Empty title="These two cannot be compared"><p>{error}</p></Empty>
  {:else if compared && view}
    <div class="flex items-center gap-3 border-b border-rule px-4 py-1.5 text-ink-2">
      <Choices
        label=""
        choices={scalings.map((by) => ({ key: by, name: SCALINGS[by], href: address.href({ by }) }))}
        value={scaling}
      />
      <span class="ml-auto text-[11px]"
        >each box as wide as the greater of both · red takes more, blue takes less</span
      >
    </div>
    <FlameGraph
      bind:this={flame}
      opened={compared}
      {view}
      found={null}
      title="Flame graph of two profiles, tinted by change"
      format={words}
      whole="comparison"
      bind:selected
      tintOf={(node) => {
        const wide = widthAt(node);
        return wide > 0 ? changeAt(node) / wide : 0;
      }}
      noteOf={(node) => (Math.abs(changeAt(node)) < view.sum / 1000 ? 'same' : signed(changeAt(node)))}
      moreOf={(node) => `before ${words(compared.before.total[node])}, ${signed(changeAt(node))}`}
    />
    <div class="h-[44%] min-h-40 border-t border-rule">
      <ChangeTable {compared} {words} selected={selectedFrame} onselect={selectFunction} />
    </div>
  {:else}<div class="grid h-full place-items-center text-ink-3" role="status">
      Reading both profiles…
    </div>{/if}
</Page>
