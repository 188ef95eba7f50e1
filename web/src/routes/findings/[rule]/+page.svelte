<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { ALL_RULES } from '@tromix/core/findings/all-rules';
  import { OVER_MANY } from '@tromix/core/findings/request-rules';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const rule = $derived(data.rule);
  const COSTS: Record<PageData['about'], string> = {
    requests: 'its share of the requests times how often it happens',
    failures: 'how often it happens',
    hosts: 'what it does to requests, where that is known',
    pages: 'its part of the time to the largest paint',
    profiles: 'its share of the selection of the profile',
    threads: 'the share of the program’s threads it holds up',
    heap: 'the share of the heap it is about',
    'load runs': 'the share of all requests’ time that it is about'
  };
  /** Where what a rule is about is listed. */
  const VIEWS_OF: Record<typeof data.about, string> = {
    requests: '/findings',
    failures: '/failures',
    hosts: '/hosts',
    pages: '/pages',
    profiles: '/profiles',
    threads: '/threads',
    heap: '/heap',
    'load runs': '/load'
  };
  const overMany = $derived(OVER_MANY.some((one) => one.rule === rule.rule));
</script>

<Page>
  {#snippet scope()}<span>The rule <b class="font-semibold text-ink">{rule.name.toLowerCase()}</b></span
    >{/snippet}
  {#snippet reading()}
    {#each ALL_RULES as { about, rules } (about)}
      <h3 class="mt-3 mb-1 heading first:mt-0">All rules about {about === 'heap' ? 'heap dumps' : about}</h3>
      <ul>
        {#each rules as one (one.rule)}
          <li>
            <a
              class="block border-b border-grid py-1 hover:bg-pen-soft aria-[current]:font-semibold"
              aria-current={one.rule === rule.rule ? 'page' : undefined}
              href={viewLink(`/findings/${one.rule}`)}>{one.name}</a
            >
          </li>
        {/each}
      </ul>
    {/each}
  {/snippet}
  <ScrollRegion label="The rule">
    <article class="max-w-2xl px-6 py-5">
      <h1 class="text-[18px]">{rule.name}</h1>
      <p class="mb-3 num text-ink-3">{rule.rule}</p>
      <h2 class="mt-3 text-[13px]">What it looks for</h2>
      <p>{rule.looksFor}</p>
      <h2 class="mt-3 text-[13px]">Why that is slow</h2>
      <p>{rule.why}</p>
      <h2 class="mt-3 text-[13px]">What to do</h2>
      {#if rule.doThis.length === 1}<p>{rule.doThis[0]}</p>
      {:else}
        <ol class="list-decimal pl-5">
          {#each rule.doThis as step (step)}<li>{step}</li>{/each}
        </ol>
      {/if}
      <h2 class="mt-3 mb-1 text-[13px]">Thresholds</h2>
      {#if rule.thresholds.length === 0}<p>None: it is so, or it is not.</p>{/if}
      <table class="w-full border-y border-rule">
        <tbody>
          {#each rule.thresholds as { name, value, why } (name)}
            <tr class="border-b border-grid align-top last:border-0">
              <th scope="row" class="py-1 pr-4 text-left font-normal whitespace-nowrap text-ink-2">{name}</th>
              <td class="py-1 pr-4 font-semibold">{value}</td>
              <td class="py-1 text-ink-2">{why}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      <h2 class="mt-3 text-[13px]">How it is ranked</h2>
      <p>
        By what it costs: {COSTS[data.about]}. The severity comes from that cost and never from the rule.
      </p>
      <p class="mt-4 flex gap-1.5">
        {#if data.about === 'requests'}<a class="button button-solid" href={viewLink('/findings')}
            >All findings</a
          >
        {:else}<a class="button button-solid" href={viewLink(VIEWS_OF[data.about])}
            >All {data.about === 'heap' ? 'heap dumps' : data.about}</a
          >{/if}
        {#if !overMany && data.about === 'requests'}<a
            class="button"
            href={viewLink('/requests', { finding: rule.rule })}>Requests with this finding</a
          >{/if}
      </p>
    </article>
  </ScrollRegion>
</Page>
