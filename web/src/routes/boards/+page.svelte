<script lang="ts">
  import { goto } from '$app/navigation';
  import { readBoard } from '@tromix/core/watch/board';
  import { plural } from '@tromix/core/text/format';
  import type { ListedBoard } from '$lib/server/watch/boards';
  import { send } from '$lib/ui/frame/send';
  import Empty from '$lib/ui/kit/Empty.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import Page from '$lib/ui/shell/Page.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import { countColumn, textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import { toast } from 'svelte-sonner';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  let name = $state('');

  async function make(board: object): Promise<void> {
    try {
      const { id } = await send<{ id: string }>('POST', '/api/boards', board);
      await goto(viewLink(`/boards/${id}`));
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
  async function openFile({ currentTarget }: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const [file] = currentTarget.files ?? [];
    if (!file) return;
    const read = readBoard(await file.text());
    currentTarget.value = '';
    if (read.ok) await make(read.board);
    else toast.error(`${file.name} cannot be opened. ${read.message}`);
  }
  const columns: Column<ListedBoard>[] = [
    textColumn('name', 'board', (board) => board.name, { width: 260, grows: true }),
    countColumn('charts', 'charts', ({ charts }) => charts),
    textColumn('changed', 'last change', ({ changedAtUs }) => dateTime(changedAtUs / 1000), { width: 140 })
  ];
</script>

<Page>
  {#snippet scope()}<span>Looking at <b class="font-semibold text-ink">all boards</b></span>{/snippet}
  {#snippet reading()}
    <p class="mb-2">{plural(data.boards.length, 'board')}.</p>
    <p class="text-ink-2">
      A board holds charts of any views side by side on one time axis, with the limits of their watches. Use <b
        class="font-[620]">Watch</b
      >
      beside a chart, or “…” on a row, to put it on a board.
    </p>
  {/snippet}
  <form
    class="flex gap-1.5 border-b border-rule px-4 py-2.5"
    onsubmit={(event) => {
      event.preventDefault();
      void make({ name, charts: [] });
    }}
  >
    <input
      class="min-w-0 flex-1 field"
      placeholder="Berthing, on call"
      aria-label="Name of the new board"
      maxlength="120"
      required
      bind:value={name}
    />
    <button class="button button-solid">Make a board</button>
    <label class="button cursor-pointer"
      >Open a file<input class="sr-only" type="file" accept=".json" onchange={openFile} /></label
    >
  </form>
  {#if data.boards.length === 0}
    <Empty title="No boards yet"
      ><p>
        Make one here, or put a chart of any view on a new one: <b class="font-[620]">Watch</b> beside the chart,
        then “Put it on a board”.
      </p></Empty
    >
  {:else}
    <DataTable
      label="Boards"
      rows={data.boards}
      {columns}
      keyOf={({ id }) => id}
      hrefOf={({ id }) => viewLink(`/boards/${id}`)}
      sort="name"
      file="boards"
    >
      {#snippet head()}<h1 class="text-[13px] text-ink">Boards</h1>{/snippet}
    </DataTable>
  {/if}
</Page>
