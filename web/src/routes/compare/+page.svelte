<script lang="ts">
  import { LEDGERS } from '@tromix/core/compare/compared-side';
  import { headline, noteWords, sureSentences } from '@tromix/core/compare/words';
  import { openCaseOfSides } from '$lib/ui/cases/open-case';
  import { pinnable } from '$lib/ui/cases/pins.svelte';
  import { comparedQuery, LEAVABLE } from '$lib/compared-scopes';
  import { scopeWindow } from '$lib/scope';
  import { compareReading } from '$lib/ui/compare/compare-reading';
  import { COMPARE_PARAMS, PARTS_OF_COMPARE, SHOWS } from '$lib/ui/compare/compare-state';
  import CauseTree from '$lib/ui/compare/CauseTree.svelte';
  import EverythingElse from '$lib/ui/compare/EverythingElse.svelte';
  import FindingCards from '$lib/ui/compare/FindingCards.svelte';
  import FromTraces from '$lib/ui/compare/FromTraces.svelte';
  import { HowSureClient } from '$lib/ui/compare/how-sure-client.svelte';
  import { isCallLine, isRemoteLine, shortName } from '$lib/ui/compare/ledger-lines';
  import LedgerRibbons from '$lib/ui/compare/LedgerRibbons.svelte';
  import { comparisonOffer } from '$lib/ui/compare/comparison-offer';
  import PairsOfEvidence, { isPairKind } from '$lib/ui/compare/PairsOfEvidence.svelte';
  import PartsTable from '$lib/ui/compare/PartsTable.svelte';
  import Presets from '$lib/ui/compare/Presets.svelte';
  import { SideTracesClient } from '$lib/ui/compare/side-traces-client';
  import SideLines from '$lib/ui/compare/SideLines.svelte';
  import SidesOverTime from '$lib/ui/compare/SidesOverTime.svelte';
  import TwoDistributions from '$lib/ui/compare/TwoDistributions.svelte';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { noteChosen, urlState } from '$lib/ui/frame/url-state.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { pairLink } from '$lib/ui/shell/links';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const address = urlState(COMPARE_PARAMS, () => ({ unfolded, whole }));
  let unfolded: string[] = $derived(address.shown.unfolded);
  let whole: string[] = $derived(address.shown.whole);
  noteChosen(address);
  const FINDINGS = 'findings';
  /** A long list by its title, as it is shown. */
  const listOf = (title: string) => ({
    title,
    all: whole.includes(title),
    onall: () => void (whole = [...whole, title])
  });
  let lines = $state<ReturnType<typeof SideLines> | null>(null);
  screenKeys([{ keys: 'x', does: 'swap the sides', run: () => lines?.swap() }]);

  let client = $state.raw<HowSureClient | null>(null);
  $effect(() => {
    const sides = data.sides;
    if (!sides) return;
    const opening = new HowSureClient(sides);
    client = opening;
    return () => opening.close();
  });
  const sure = $derived(client?.value ?? null);
  const name = $derived.by(() => {
    if (!data.scopes) return '';
    const { before, after } = data.scopes;
    if (after.endpoint) return after.endpoint;
    return after.service || before.service ? `A request of ${after.service || before.service}` : 'A request';
  });
  const compared = $derived(data.sides?.compared ?? null);
  const isEmpty = $derived(
    compared !== null && Math.min(compared.requests.before, compared.requests.after) === 0
  );
  /** What stands under the headline: how sure it is, and what must be known of the sides. */
  const said = $derived.by((): string[] => {
    if (!compared) return [];
    const sentences = sure && !isEmpty ? sureSentences({ sure, ...compared }) : [];
    const left = data.leave.map((what) => LEAVABLE[what]).join(', ');
    return [...sentences, ...compared.notes.map(noteWords), ...(left ? [`Left out: ${left}.`] : [])];
  });
  pinnable(() => (compared && data.scopes ? comparisonOffer(name, compared, sure, said) : {}));
  const LEDGER_NAMES = { part: 'by part', account: 'by account', service: 'by service' };
  const ledger = $derived(
    compared && (address.shown.ledger === 'account' ? compared.ledgers.account : compared.ledgers.part)
  );
  const query = $derived(data.scopes ? `?${comparedQuery(data.scopes, data.leave)}` : '');
  let traces = $state.raw<SideTracesClient | null>(null);
  $effect(() => {
    if (query === '') return;
    const opening = new SideTracesClient(query);
    traces = opening;
    return () => opening.close();
  });
</script>

{#snippet ledgers()}
  <Choices
    label=""
    choices={LEDGERS.map((key) => ({
      key,
      name: LEDGER_NAMES[key],
      href: address.href({ ledger: key })
    }))}
    value={address.shown.ledger}
  />
{/snippet}

<Page>
  {#snippet scope()}
    {#if data.scopes}
      <SideLines bind:this={lines} scopes={data.scopes} leave={data.leave} nowMs={data.nowMs} />
    {:else}
      <ScopeLine
        which={['endpoint', 'service', 'host', 'release', 'time', 'run']}
        window={scopeWindow(data.scope, data.nowMs)}
      />
    {/if}
  {/snippet}
  {#snippet reading()}
    {#if compared && data.scopes}
      {#if isEmpty}<p>One side has no requests. Choose other times, or another endpoint.</p>
      {:else}
        {#each compareReading(compared) as sentence, i (i)}<Sentence text={sentence} />{/each}
        <FindingCards
          findings={compared.findings}
          requests={compared.requests}
          scopes={data.scopes}
          {sure}
          {query}
          all={whole.includes(FINDINGS)}
          onall={() => (whole = [...whole, FINDINGS])}
        />
      {/if}
    {:else}
      <p class="mb-2">
        Choose two sides: A is what was before or is normal, B what is now or is slow. Every difference is B
        less A.
      </p>
      <p class="text-ink-2">
        Narrow the sentence above first, and what is offered is about that service or endpoint.
      </p>
      <p class="mt-3"><a class="button" href={pairLink('profiles', {})}>Two profiles</a></p>
    {/if}
  {/snippet}

  {#if !data.sides || !compared || !data.scopes || !ledger}
    <h1 class="px-6 pt-4 text-[15px]">What is to be held against what?</h1>
    <ScrollRegion label="What can be compared">
      {#if data.presets}<Presets presets={data.presets} />{/if}
    </ScrollRegion>
  {:else}
    <header class="border-b border-rule px-4 py-2.5">
      <div class="flex items-baseline gap-3">
        <h1 class="text-[16px] text-pretty">{headline(name, compared.figures, sure)}</h1>
        {#if !isEmpty}<button
            class="ml-auto button flex-none"
            title="With a first draft: the figures, a request of each side, what makes the difference"
            onclick={() => data.scopes && void openCaseOfSides(data.scopes)}>Open a case</button
          >{/if}
      </div>
      <!-- Room for what is said once it is worked out: what stands below does not move. -->
      <div class="mt-0.5 min-h-[3lh] text-pretty text-ink-2" aria-live="polite">
        {#if client?.error}<p class="text-alarm" role="alert">{client.error}</p>
        {:else if sure || isEmpty}{said.join(' ')}
        {:else}
          <span class="inline-flex items-center gap-2"
            >How sure that is, is being worked out.
            <progress class="h-1.5 w-40" max="1" value={client?.progress ?? 0} aria-label="Intervals"
            ></progress></span
          >
        {/if}
      </div>
    </header>
    <nav class="border-b border-rule px-4 py-1.5 text-ink-2" aria-label="Parts of the comparison">
      <Choices
        label=""
        choices={SHOWS.map((key) => ({
          key,
          name: PARTS_OF_COMPARE[key],
          href: address.href({ show: key })
        }))}
        value={address.shown.show}
      />
    </nav>
    {#if address.shown.show === 'everything'}
      <EverythingElse what="endpoints" scopes={data.scopes} />
    {:else if isPairKind(address.shown.show)}
      <PairsOfEvidence kind={address.shown.show} scopes={data.scopes} nowMs={data.nowMs} />
    {:else if isEmpty}
      <Empty title="One side has no requests">
        {#each compared.notes as note, i (i)}<p>{noteWords(note)}</p>{/each}
      </Empty>
    {:else if address.shown.show === 'why'}
      <ScrollRegion label="Why"><CauseTree ledger={compared.ledgers.part} /></ScrollRegion>
    {:else if address.shown.show === 'calls'}
      <ScrollRegion label="Calls of both sides">
        <PartsTable {...listOf('Calls a request makes')} ledger={compared.ledgers.part} only={isCallLine} />
        <div class="border-t border-rule"><EverythingElse what="calls" scopes={data.scopes} /></div>
      </ScrollRegion>
    {:else}
      <ScrollRegion label="Requests of both sides">
        {#if address.shown.ledger === 'service' && traces}
          <FromTraces
            client={traces}
            ask={(of) => of.byService()}
            {...listOf('What makes the difference, service by service')}
            requests={compared.requests}
            ribbons
            choices={ledgers}
          />
        {:else}
          <LedgerRibbons {ledger} />
          <div class="border-t border-rule">
            <PartsTable
              {ledger}
              {...listOf('What makes the difference, adding up to it exactly')}
              choices={ledgers}
              opens={isRemoteLine}
              bind:unfolded
            >
              {#snippet below(line)}
                {#if traces}<FromTraces
                    client={traces}
                    ask={(of) => of.inside(line)}
                    {...listOf(`Inside ${shortName(line)}`)}
                    requests={compared.requests}
                  />{/if}
              {/snippet}
            </PartsTable>
          </div>
        {/if}
        <div class="grid border-t border-rule bg-sheet lg:grid-cols-2">
          <section class="min-w-0 border-r border-rule py-2" aria-label="How long they take">
            <div class="flex items-baseline gap-3 px-4 text-ink-2">
              <h2 class="text-[13px] text-ink">How long they take</h2>
              <Choices
                label=""
                choices={[
                  { key: 'classes', name: 'share in each class', href: address.href({ curve: 'classes' }) },
                  { key: 'up to', name: 'share up to it', href: address.href({ curve: 'up to' }) }
                ]}
                value={address.shown.curve}
              />
            </div>
            <TwoDistributions durationsNs={data.sides.durationsNs} curve={address.shown.curve} />
          </section>
          <section class="min-w-0 py-2" aria-label="Over time">
            <h2 class="px-4 text-[13px]">Over the time of each side</h2>
            <SidesOverTime {...data.sides} />
          </section>
        </div>
      </ScrollRegion>
    {/if}
  {/if}
</Page>
