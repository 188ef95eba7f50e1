<script lang="ts">
  import { Dialog } from 'bits-ui';
  import type { CaseItem } from '$lib/server/queries/cases';
  import { invalidate } from '$app/navigation';
  import { send } from '$lib/ui/frame/send';
  import { toast } from 'svelte-sonner';
  import { addTo, chooseCase, pinning } from './pins.svelte';

  /** To which case something is pinned: one that is open, or a new one. */
  let { cases }: { cases: CaseItem[] } = $props();
  let question = $state('');

  async function pinTo(id: string, name: string): Promise<void> {
    const entry = pinning.waiting;
    pinning.waiting = null;
    chooseCase(id);
    if (entry) await addTo(id, name, entry);
  }
  async function openNew(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const entry = pinning.waiting;
    try {
      const { id } = await send<{ id: string }>('POST', '/api/cases', {
        question,
        entries: entry ? [entry] : []
      });
      chooseCase(id);
      toast.success(`Case “${question}” opened${entry ? ', with what you pinned' : ''}.`);
      pinning.waiting = null;
      question = '';
      await invalidate('tromix:cases');
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
</script>

<Dialog.Root open={pinning.waiting !== null} onOpenChange={(open) => !open && (pinning.waiting = null)}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/30" />
    <Dialog.Content
      class="fixed top-[18%] left-1/2 z-50 w-[440px] -translate-x-1/2 rounded border border-rule bg-sheet p-4 shadow-lg"
    >
      <Dialog.Title class="text-[15px] font-semibold">Pin to which case?</Dialog.Title>
      <Dialog.Description class="mb-2 text-ink-2">
        What the view shows now is kept with its figures and its picture, also when the evidence is gone.
      </Dialog.Description>
      <form class="flex gap-1.5" onsubmit={openNew}>
        <input
          class="min-w-0 flex-1 field"
          placeholder="A new case: what is the question?"
          aria-label="Question of the new case"
          maxlength="300"
          required
          bind:value={question}
        />
        <button class="button button-solid">Open it</button>
      </form>
      {#if cases.length > 0}
        <ul class="mt-3 max-h-64 overflow-y-auto" aria-label="Open cases">
          {#each cases as { id, question: name } (id)}
            <li>
              <button
                class="block w-full truncate rounded-[3px] px-1.5 py-1 text-left hover:bg-steer-soft"
                onclick={() => void pinTo(id, name)}>{name}</button
              >
            </li>
          {/each}
        </ul>
      {/if}
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
