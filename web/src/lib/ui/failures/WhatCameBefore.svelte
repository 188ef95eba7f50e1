<script lang="ts">
  import { page } from '$app/state';
  import { formatDuration } from '@tromix/core/text/format';
  import type { FailureExample } from '$lib/server/queries/failure-example';
  import { exactTime } from '$lib/ui/kit/time';
  import { viewLink } from '$lib/ui/shell/links';

  /** What came before one occurrence of a failure, oldest first, and the ways to it and to others. */
  let {
    example,
    title,
    at,
    of
  }: {
    example: FailureExample;
    title: string;
    /** Place of the example among the newest, from 0, and how many there are. */
    at: number;
    of: number;
  } = $props();

  const BEFORE_OF = {
    person: 'Requests of the same person or session, and records of the same trace, up to 10 minutes back.',
    page: 'What happened on the page before, in this load of it.',
    trace: 'Its requests name nobody: this is of the same trace alone.',
    process:
      'It happened outside of every request: this is what the same service wrote on the same host, up to 10 minutes back.'
  };
  /** Another of its newest occurrences. */
  const nth = (n: number): string => {
    const query = new URLSearchParams(page.url.searchParams);
    if (n > 0) query.set('nth', String(n));
    else query.delete('nth');
    return `${page.url.pathname}?${query}`;
  };
  const before = $derived(
    example.before.map((step) => ({
      ...step,
      ago: (example.atUs - step.atUs) * 1000,
      href: step.traceId
        ? viewLink(
            `/requests/${step.traceId}/${example.traceId === step.traceId ? example.spanId : step.spanId}`
          )
        : ''
    }))
  );
</script>

<h3 class="mt-3 mb-1 heading">What happened before, in one of them</h3>
<table class="w-full" aria-label="What happened before">
  <tbody>
    {#each before as { ago, words, kind, href, atUs }, i (i)}
      <tr class="border-t border-grid align-baseline">
        <td class="w-16 py-1 pr-2 text-right num whitespace-nowrap text-ink-3" title={exactTime(atUs / 1000)}
          >−{formatDuration(ago)}</td
        >
        <td class="max-w-0 truncate num" title={words}
          >{#if kind === 'log'}log: {words}{:else if kind === 'step'}{words}{:else}<a
              class="hover:underline"
              {href}>{words}</a
            >{/if}</td
        >
      </tr>
    {/each}
    <tr class="border-t border-grid">
      <td class="w-16 py-1 pr-2 text-right num text-alarm">0</td>
      <td class="max-w-0 truncate num text-alarm" {title}>{title}</td>
    </tr>
  </tbody>
</table>
<p class="mt-1 text-[11px] text-ink-3">
  {BEFORE_OF[example.beforeOf]}
</p>
<p class="mt-2 flex flex-wrap gap-1.5">
  {#if example.page}<a class="button" href={viewLink(`/pages/loads/${example.page.traceId}`)}
      >Open this page load</a
    >{#if example.page.session}<a
        class="button"
        href={viewLink(`/pages/visits/${encodeURIComponent(example.page.session)}`)}>Its visit</a
      >{/if}{:else if example.traceId}<a
      class="button"
      href={viewLink(`/requests/${example.traceId}/${example.spanId}`, {}, { row: example.atSpanId })}
      >Open this request</a
    >{:else if example.atSpanId}<a class="button" href={viewLink(`/crashes/${example.atSpanId}`)}
      >Open this crash</a
    >{:else}<a
      class="button"
      href={viewLink('/logs', {
        service: example.service,
        host: example.host,
        from: Math.floor(example.atUs / 1000) - 60_000,
        to: Math.ceil(example.atUs / 1000) + 60_000
      })}>The log around it</a
    >{/if}
  {#if at + 1 < of}<a class="button" href={nth(at + 1)}>Another</a>{/if}
  {#if at > 0}<a class="button" href={nth(0)}>The newest</a>{/if}
</p>
