<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import NoData from '$lib/ui/shell/NoData.svelte';
  import { words } from '@tromix/core/text/words';
  import { rowsByArrows } from '$lib/ui/frame/lists';
  import { sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import type { FoundGroup } from '$lib/server/queries/found-group';
  import { foundSentence, goneWords } from '$lib/ui/findings/found-sentence';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { isOpen } from '$lib/open-finding';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import ActionMenu from '$lib/ui/kit/ActionMenu.svelte';
  import { findingOffer } from '$lib/ui/watch/offer-of';
  import { offersWatch, watchActions } from '$lib/ui/watch/offers.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  let menu = $state<ReturnType<typeof ActionMenu> | null>(null);
  const SHAPES = { high: '◆', medium: '◈', low: '◇' } as const;
  const shown = $derived(data.findings.filter(({ mark }) => mark === null || mark.back));
  const open = $derived(data.findings.filter(isOpen));
  const gone = $derived(shown.filter((finding) => finding.gone !== null));
  const aside = $derived(data.findings.filter(({ mark }) => mark !== null && !mark.back));
  const keyOf = ({ rule, service, endpoint, subject }: FoundGroup): string =>
    JSON.stringify([rule, service, endpoint, subject]);
  let asking = $state('');
  let reason = $state('');

  async function mark(method: 'POST' | 'DELETE', finding: FoundGroup): Promise<void> {
    const { service, endpoint, rule, subject } = finding;
    const costNs = Math.round(finding.costNs / Math.max(1, finding.requests));
    const body = { service, endpoint, rule, subject, ...(method === 'POST' ? { reason, costNs } : {}) };
    if (!(await sendAndSay(method, '/api/marks', body, ''))) return;
    asking = '';
    reason = '';
    await invalidate('tromix:data');
  }
  const place = ({ service, endpoint }: FoundGroup): { service: string; endpoint: string } => ({
    service,
    endpoint
  });
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['endpoint', 'service', 'host', 'release', 'time', 'run']} window={data.window} />
  {/snippet}
  {#snippet reading()}
    {#if open.length > 0}
      <Sentence
        text={words`${[plural(open.length, 'finding')]} in this scope, costliest first: by share of all time, which combines how much each takes and how often. The first is ${[open[0].title.toLowerCase()]} in ${[open[0].endpoint]} with ${[formatShare(open[0].share)]}.`}
      />
    {:else}<p>No rule found anything in this scope.</p>{/if}
    <p class="text-[11px] text-ink-3">
      Shares of different findings may overlap: one loop can be in a slow release on a slow host. A finding
      set aside comes back by itself when a newer release of its service still shows it, or when it costs
      twice as much a request.
    </p>
  {/snippet}

  {#if data.findings.length === 0}
    <NoData title="No findings in this time range"><p>No rule found anything here.</p></NoData>
  {:else}
    <ScrollRegion label="Findings" class="bg-sheet">
      <h1 class="px-4 pt-3 pb-1 text-[15px]">Findings</h1>
      {#each [{ name: '', list: open }, { name: 'Gone with a newer release', list: gone }, { name: 'Set aside', list: aside }] as { name, list } (name)}
        {#if name && list.length > 0}<h2 class="px-4 pt-4 pb-1 text-[13px]">{name}</h2>{/if}
        <ul data-list use:rowsByArrows>
          {#each list as finding (keyOf(finding))}
            <li
              use:offersWatch={() => findingOffer(finding, data.scope)}
              class="grid grid-cols-[58px_minmax(0,1fr)] items-start gap-x-3 gap-y-1.5 border-b border-grid px-4 py-2 hover:bg-paper xl:grid-cols-[58px_minmax(0,1fr)_auto]"
            >
              <span class="num font-semibold" title="Of all time in this scope"
                >{formatShare(finding.share)}</span
              >
              <div class="min-w-0">
                <h3 class="font-semibold">
                  <span
                    class={finding.severity === 'low' ? 'text-ink-3' : 'text-pen'}
                    role="img"
                    aria-label="{finding.severity} severity">{SHAPES[finding.severity]}</span
                  >
                  {finding.title}
                  <span class="font-normal text-ink-2"
                    >· {finding.endpoint} <span class="text-ink-3">{finding.service}</span></span
                  >
                </h3>
                <Sentence text={foundSentence(finding)} />
                {#if finding.fingerprint}<code class="line-clamp-2 block num text-ink-2"
                    >{finding.fingerprint}</code
                  >{/if}
                {#if finding.growth}<p>{finding.growth}</p>{/if}
                {#if finding.gone}<p class="text-ok">{goneWords(finding.gone)}</p>{/if}
                <p class="text-[12px] text-ink-3">
                  {plural(finding.requests, 'request')}, {formatDuration(
                    finding.costNs / Math.max(1, finding.requests)
                  )} each{finding.origin ? ` · ${finding.origin}` : ''}. {finding.remedy}
                </p>
                {#if finding.mark}
                  <p class="text-[12px] {finding.mark.back ? 'text-alarm' : 'text-ink-2'}">
                    {finding.mark.back ? 'Came back after it was set aside' : 'Set aside'} on {dateTime(
                      finding.mark.atUs / 1000
                    )}: “{finding.mark.reason}”
                  </p>
                {/if}
                {#if asking === keyOf(finding)}
                  <form
                    class="mt-1 flex gap-1.5"
                    onsubmit={(event) => {
                      event.preventDefault();
                      void mark('POST', finding);
                    }}
                  >
                    <!-- svelte-ignore a11y_autofocus -->
                    <input
                      class="w-80 field"
                      placeholder="Why it may stay, for whoever reads this later"
                      aria-label="Reason"
                      maxlength="500"
                      autofocus
                      bind:value={reason}
                    />
                    <button class="button button-solid" type="submit" disabled={reason.trim() === ''}
                      >Set aside</button
                    >
                    <button class="button" type="button" onclick={() => (asking = '')}>Cancel</button>
                  </form>
                {/if}
              </div>
              <div class="col-start-2 flex flex-wrap gap-1 xl:col-start-3 xl:flex-col xl:items-end">
                {#if finding.example}
                  <a
                    class="button button-solid"
                    data-row
                    href={viewLink(
                      `/requests/${finding.example.traceId}/${finding.example.spanId}`,
                      place(finding)
                    )}>Open a typical one</a
                  >
                {:else}
                  <a
                    class="button button-solid"
                    data-row
                    href={viewLink('/endpoint', { ...place(finding), ...finding.narrow })}>Look at it</a
                  >
                {/if}
                <span class="flex gap-1">
                  <a
                    class="button border-rule text-ink-2"
                    href={viewLink('/requests', {
                      ...place(finding),
                      ...finding.narrow,
                      finding:
                        finding.narrow.host || finding.narrow.release || finding.rule === 'cold-start'
                          ? ''
                          : finding.rule
                    })}>All {formatCount(finding.requests)}</a
                  >
                  <a class="button border-rule text-ink-2" href={viewLink(`/findings/${finding.rule}`)}
                    >The rule</a
                  >
                  <button
                    class="button border-rule text-ink-2"
                    aria-haspopup="menu"
                    onclick={(event) =>
                      void menu?.open(event, watchActions(findingOffer(finding, data.scope)))}>Watch</button
                  >
                  {#if finding.mark && !finding.mark.back}
                    <button class="button border-rule text-ink-2" onclick={() => void mark('DELETE', finding)}
                      >Take up again</button
                    >
                  {:else}
                    <button
                      class="button border-rule text-ink-2"
                      onclick={() => {
                        asking = keyOf(finding);
                        reason = '';
                      }}>Set aside</button
                    >
                  {/if}
                </span>
              </div>
            </li>
          {/each}
        </ul>
      {/each}
    </ScrollRegion>
  {/if}
</Page>
<ActionMenu bind:this={menu} />
