<script lang="ts">
  import { Dialog } from 'bits-ui';
  import { goto, invalidate } from '$app/navigation';
  import { toast } from 'svelte-sonner';
  import { MOST_CHARTS, type BoardChart } from '@tromix/core/watch/board';
  import { watchedWords } from '@tromix/core/watch/words';
  import type { ListedBoard } from '$lib/server/watch/boards';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { addChart, newChartId } from './board-client';
  import { watching } from './offers.svelte';

  /** On which board a chart is put: one that is there, or a new one. */
  let name = $state('');
  const offer = $derived(watching.board);
  const boards = resource(
    () => (offer ? 'boards' : null),
    (_, signal) => send<ListedBoard[]>('GET', '/api/boards', undefined, signal)
  );
  const chart = $derived.by(
    (): BoardChart | null =>
      offer && {
        id: newChartId(),
        title: offer.title ?? '',
        figures: [offer.watched, ...(offer.beside ?? [])],
        wide: false
      }
  );

  async function put(work: () => Promise<string>, named: string): Promise<void> {
    watching.board = null;
    try {
      const id = await work();
      toast.success(`Put on “${named}”.`, {
        action: { label: 'Open', onClick: () => void goto(`/boards/${id}`) }
      });
      name = '';
      await invalidate('tromix:boards');
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
  function putOn({ id, name: named }: ListedBoard): void {
    // The offer goes with the dialog: what is put on is taken from it first.
    const one = chart;
    if (one) void put(() => addChart(id, one), named);
  }
  function putOnNew(event: SubmitEvent): void {
    event.preventDefault();
    const charts = chart ? [chart] : [];
    void put(async () => (await send<{ id: string }>('POST', '/api/boards', { name, charts })).id, name);
  }
</script>

<Dialog.Root open={offer !== null} onOpenChange={(open) => !open && (watching.board = null)}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/30" />
    <Dialog.Content
      class="fixed top-[18%] left-1/2 z-50 w-[440px] -translate-x-1/2 rounded border border-rule bg-sheet p-4 shadow-lg"
    >
      <Dialog.Title class="text-[15px] font-semibold">Put on which board?</Dialog.Title>
      <Dialog.Description class="mb-2 text-ink-2">
        {offer ? watchedWords(offer.watched) : ''}
      </Dialog.Description>
      <form class="flex gap-1.5" onsubmit={putOnNew}>
        <input
          class="min-w-0 flex-1 field"
          placeholder="A new board"
          aria-label="Name of the new board"
          maxlength="120"
          required
          bind:value={name}
        />
        <button class="button button-solid">Make it</button>
      </form>
      {#if boards.error}<p class="mt-2 text-alarm" role="alert">{boards.error}</p>{/if}
      {#if boards.value && boards.value.length > 0}
        <ul class="mt-3 max-h-64 overflow-y-auto" aria-label="Boards">
          {#each boards.value as board (board.id)}
            <li>
              <button
                class="flex w-full justify-between rounded-[3px] px-1.5 py-1 text-left hover:bg-steer-soft"
                disabled={board.charts >= MOST_CHARTS}
                onclick={() => putOn(board)}
                ><span class="truncate">{board.name}</span><span class="num text-ink-3">{board.charts}</span
                ></button
              >
            </li>
          {/each}
        </ul>
      {/if}
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
