<script lang="ts">
  import Hint from '$lib/ui/kit/Hint.svelte';
  import { words } from '@tromix/core/text/words';
  import { page } from '$app/state';
  import { formatBytes, formatCount, plural } from '@tromix/core/text/format';
  import SendTraces from '$lib/ui/shell/SendTraces.svelte';
  import { uploadCommand } from '$lib/ui/shell/sending';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import DropZone from '$lib/ui/evidence/DropZone.svelte';
  import EvidenceTable from '$lib/ui/evidence/EvidenceTable.svelte';
  import SetAsideList from '$lib/ui/evidence/SetAsideList.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  const bytes = $derived(data.evidence.reduce((sum, item) => sum + item.bytes, 0));
</script>

<Page>
  {#snippet scope()}<span
      >Looking at <Hint of="evidence"><b class="font-semibold text-ink">all evidence</b></Hint>, the newest
      first</span
    >{/snippet}
  {#snippet reading()}
    <Sentence
      text={words`${[plural(data.counts.all, 'file')]} ${data.counts.all > data.evidence.length ? `kept, each named by its content; the newest ${formatCount(data.evidence.length)} are listed` : `of ${formatBytes(bytes)} kept, each named by its content`}.`}
    />
    <p class="mb-2">
      A log of statements is read into Calls; its lines are not kept, because they hold values. A profile that
      names its service, process and time is found from every request that ran then.
    </p>
    <a class="mb-3 button" href="/evidence/keep">Which requests are kept</a>
    <SendTraces />
    <h3 class="mt-3 mb-1 heading">From a script</h3>
    <pre
      class="rounded-[3px] border border-rule bg-paper p-2 num break-all whitespace-pre-wrap">{uploadCommand(
        page.url.origin,
        data.sendsToken
      )}</pre>
  {/snippet}
  <DropZone />
  <SetAsideList items={data.setAside} old={data.old} keepDays={data.keepDays} />
  {#if data.evidence.length > 0}
    <EvidenceTable label="Evidence" items={data.evidence} total={data.counts.all} />
  {:else}<p class="border-t border-rule p-4 text-ink-3">
      No file has been loaded yet. Traces that were sent are under Requests.
    </p>{/if}
</Page>
