<script lang="ts">
  import { page } from '$app/state';
  import { causeTree, type Cause } from '@tromix/core/compare/cause-tree';
  import type { DifferenceLedger } from '@tromix/core/compare/difference-ledger';
  import { signedDuration } from '@tromix/core/compare/words';
  import type { Account } from '@tromix/core/trace/account';
  import { formatCount, formatShare, plural } from '@tromix/core/text/format';
  import type { Aids } from '$lib/server/queries/sides/aids';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { shortTime } from '$lib/ui/kit/time';
  import AccountChip from '$lib/ui/ledger/AccountChip.svelte';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import { evidenceLink } from '$lib/ui/shell/links';
  import { isCallLine, lineAccount, shortName } from './ledger-lines';

  /** The difference as a tree: kinds of time, their parts, and for each what else is known of the moments of side B. */
  let { ledger }: { ledger: DifferenceLedger } = $props();
  const causes = $derived(causeTree(ledger, (line) => lineAccount(line) ?? 'ownCode'));
  const aids = resource(
    () => page.url.search,
    (query, signal) => send<Aids>('GET', `/api/compare/aids${query}`, undefined, signal),
    { keep: true }
  );
  const MOST_LINES = 5;
  /** Time that spans do not explain any further: a profile does. */
  const OF_PROFILES = new Set<string>(['ownCode', 'unseen', 'pause']);
  /** Waits whose holder a thread dump shows. */
  const OF_DUMPS = new Set<string>(['lock', 'queue', 'unseen']);
  const coveringFor = ({ kind }: Cause): Aids['covering'] =>
    (aids.value?.covering ?? []).filter((one) =>
      one.kind === 'profile' ? OF_PROFILES.has(kind) : OF_DUMPS.has(kind)
    );
  const isTold = (cause: Cause): boolean => OF_PROFILES.has(cause.kind) || OF_DUMPS.has(cause.kind);
  const greatest = $derived(Math.max(1, ...causes.map(({ differenceNs }) => Math.abs(differenceNs))));
  const share = (of: number): string =>
    Number.isNaN(of) ? '' : of < 0 ? `−${formatShare(-of)}` : formatShare(of);
  const callsWord = (calls: number): string => formatCount(Number(calls.toPrecision(3)));
</script>

<div class="px-4 py-3" aria-label="Causes of the difference">
  <p class="mb-2 text-[13px] font-semibold">
    {signedDuration(ledger.differenceNs)} a request, from A to B
  </p>
  {#each causes as cause (cause.kind)}
    <section class="mb-3 ml-2 border-l-2 border-rule pl-3">
      <div class="flex items-center gap-2">
        <AccountChip account={cause.kind as Account} />
        <h2 class="w-32 text-[13px] font-semibold">{LOOKS[cause.kind as Account]?.name ?? cause.kind}</h2>
        <span class="w-28 text-right num">{signedDuration(cause.differenceNs)}</span>
        <span class="w-16 text-right num text-ink-2">{share(cause.share)}</span>
        <i
          class="block h-[9px] {cause.differenceNs > 0 ? 'bg-alarm' : 'bg-ok'}"
          style:width="{Math.max(1, (Math.abs(cause.differenceNs) / greatest) * 200)}px"
        ></i>
      </div>
      <ul class="mt-1 ml-7">
        {#each cause.lines.slice(0, MOST_LINES) as line, i (i)}
          <li class="flex items-baseline gap-2 text-ink-2">
            <span class="min-w-0 flex-1 truncate num" title={shortName(line)}>{shortName(line)}</span>
            {#if isCallLine(line)}<span class="num"
                >{callsWord(line.perRequest.before.calls)} → {callsWord(line.perRequest.after.calls)} calls</span
              >{/if}
            <span class="w-24 text-right num">{signedDuration(line.differenceNs)}</span>
            <span class="w-16 text-right text-[11px] text-ink-3"
              >{Number.isNaN(line.p) ? 'not told' : line.clear ? 'clear' : 'unclear'}</span
            >
          </li>
        {/each}
        {#if cause.lines.length > MOST_LINES}
          <li class="text-ink-3">
            {cause.lines.length - MOST_LINES} more, {signedDuration(
              cause.lines.slice(MOST_LINES).reduce((sum, line) => sum + line.differenceNs, 0)
            )}
          </li>
        {/if}
      </ul>
      {#if isTold(cause)}
        <!-- What is known of those moments comes later, and has its line. -->
        <p class="mt-1 ml-7 flex min-h-6 flex-wrap items-center gap-1.5">
          {#each aids.value ? coveringFor(cause) : [] as one (one.id)}
            <a class="button" href={evidenceLink(one)}
              >{one.kind === 'profile' ? 'Profile' : 'Thread dump'} of {one.service || 'a process'}, {shortTime(
                one.startedAtUs / 1000
              )}: while {plural(one.requests, 'request')} of B ran</a
            >
          {:else}
            {#if aids.value}<span class="text-ink-3"
                >No {OF_PROFILES.has(cause.kind) ? 'profile' : 'thread dump'} was taken while requests of B ran.
                <a class="underline" href="/recorder">Record one</a></span
              >{/if}
          {/each}
        </p>
      {/if}
    </section>
  {/each}
  {#if aids.value && aids.value.hosts.length > 1}
    <h2 class="mt-2 mb-1 heading">On which hosts</h2>
    <table aria-label="Requests by host">
      <thead
        ><tr
          ><th class="column">host</th><th class="column text-right">A</th><th class="column text-right">B</th
          ></tr
        ></thead
      >
      <tbody>
        {#each aids.value.hosts as { host, requests } (host)}
          <tr class="border-t border-grid"
            ><td class="px-2">{host}</td><td class="px-2 text-right num">{formatCount(requests.before)}</td
            ><td class="px-2 text-right num">{formatCount(requests.after)}</td></tr
          >
        {/each}
      </tbody>
    </table>
  {/if}
</div>
