<script lang="ts">
  import { goto } from '$app/navigation';
  import { CLOSED_STATES } from '@tromix/core/case/case';
  import { plural } from '@tromix/core/text/format';
  import type { CaseItem } from '$lib/server/queries/cases';
  import { chooseCase, pinning } from '$lib/ui/cases/pins.svelte';
  import { send } from '$lib/ui/frame/send';
  import { dateTime } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import { countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { toast } from 'svelte-sonner';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  let question = $state('');
  const open = $derived(data.all.filter(({ state }) => !CLOSED_STATES.includes(state)).length);

  async function openNew(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    try {
      const { id } = await send<{ id: string }>('POST', '/api/cases', { question });
      chooseCase(id);
      await goto(`/cases/${id}`);
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
  async function openBundle({ currentTarget }: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const [file] = currentTarget.files ?? [];
    if (!file) return;
    try {
      const response = await fetch('/api/bundles', { method: 'POST', body: file });
      const answer = (await response.json()) as { message?: string; id?: string; notes?: string[] };
      if (!response.ok) throw new Error(answer.message ?? 'The bundle could not be opened.');
      for (const note of answer.notes ?? []) toast(note);
      await goto(`/cases/${answer.id}`);
    } catch (cause) {
      toast.error((cause as Error).message);
    } finally {
      currentTarget.value = '';
    }
  }
  const columns: Column<CaseItem>[] = [
    { key: 'question', title: 'question', width: 260, grows: true, value: (item) => item.question },
    textColumn('state', 'state', (item) => item.state, { width: 110 }),
    countColumn('entries', 'entries', (item) => item.entries),
    textColumn('opened', 'opened', (item) => dateTime(item.createdAtUs / 1000, data.nowMs), { width: 130 }),
    textColumn('changed', 'last change', (item) => dateTime(item.changedAtUs / 1000, data.nowMs), {
      width: 130
    })
  ];
</script>

<Page>
  {#snippet scope()}<span>Looking at <b class="font-semibold text-ink">all cases</b></span>{/snippet}
  {#snippet reading()}
    <p class="mb-2">
      {plural(data.all.length, 'case')}, {open} of them open.
    </p>
    <p class="text-ink-2">
      A case is one investigation: a question, what was found, in order, and how it ended. Press
      <kbd class="num">p</kbd> on any view to pin what it shows. What an open case stands on is not removed.
    </p>
  {/snippet}
  <form class="flex gap-1.5 border-b border-rule px-4 py-2.5" onsubmit={openNew}>
    <input
      class="min-w-0 flex-1 field"
      placeholder="What is the question? Berthing takes seconds since 7.3"
      aria-label="Question of the new case"
      maxlength="300"
      required
      bind:value={question}
    />
    <button class="button button-solid">Open a case</button>
    <label class="button cursor-pointer"
      >Open a bundle<input class="sr-only" type="file" accept=".zip" onchange={openBundle} /></label
    >
  </form>
  <DataTable
    label="Cases"
    rows={data.all}
    {columns}
    keyOf={({ id }) => id}
    hrefOf={({ id }) => `/cases/${id}`}
    sort=""
    file="cases"
    empty="No case is there yet."
  >
    {#snippet head()}<h1 class="text-[13px] text-ink">Cases</h1>{/snippet}
    {#snippet cell(row)}<span class="truncate font-[560]"
        >{row.question}{#if row.id === pinning.caseId}<span class="text-pen" title="Pins go here">
            ●</span
          >{/if}</span
      >{/snippet}
  </DataTable>
</Page>
