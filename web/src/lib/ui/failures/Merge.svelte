<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { toast } from 'svelte-sonner';
  import type { FailureDetail } from '$lib/server/queries/failure';
  import { send } from '$lib/ui/frame/send';
  import { failureName, failurePlace } from './failure-words';

  /** What was merged into a group of failures, and what else may be: groups that a person knows to be one. */
  let {
    id,
    merged,
    others
  }: { id: number; merged: FailureDetail['merged']; others: FailureDetail['merged'] } = $props();
  let chosen = $state('');

  const url = $derived(`/api/failures/${id}/merge`);
  const put = async (method: 'POST' | 'DELETE', group: number): Promise<void> => {
    await send(method, url, { group });
    await invalidate('tromix:data');
  };
  async function decide(method: 'POST' | 'DELETE', group: number, said: string): Promise<void> {
    try {
      await put(method, group);
      chosen = '';
      const back = method === 'POST' ? 'DELETE' : 'POST';
      toast.success(said, {
        action: { label: 'Undo', onClick: () => void decide(back, group, 'It is as it was.') }
      });
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
</script>

{#each merged as { id: group, identity } (group)}
  <p class="mt-1 flex items-baseline justify-between gap-2">
    <span class="min-w-0 truncate" title={failurePlace(identity)}>with <b>{failureName(identity)}</b></span>
    <button class="button" onclick={() => void decide('DELETE', group, 'They are two again.')}>Part</button>
  </p>
{/each}
{#if others.length > 0}
  <form
    class="mt-2 flex gap-1.5"
    onsubmit={(event) => {
      event.preventDefault();
      if (chosen) void decide('POST', Number(chosen), 'They are one now.');
    }}
  >
    <select class="min-w-0 flex-1 field" aria-label="Another that is the same" bind:value={chosen}>
      <option value="">Another that is the same…</option>
      {#each others as { id: group, identity } (group)}<option value={String(group)}
          >{failureName(identity).slice(0, 80)} · {failurePlace(identity).slice(0, 60)}</option
        >{/each}
    </select>
    <button class="button" disabled={!chosen}>Merge</button>
  </form>
{/if}
