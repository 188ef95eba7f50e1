<script lang="ts">
  import BookmarkIcon from '@lucide/svelte/icons/bookmark';
  import LinkIcon from '@lucide/svelte/icons/link';
  import PauseIcon from '@lucide/svelte/icons/pause';
  import FileTextIcon from '@lucide/svelte/icons/file-text';
  import PinIcon from '@lucide/svelte/icons/pin';
  import PlayIcon from '@lucide/svelte/icons/play';
  import TrashIcon from '@lucide/svelte/icons/trash';
  import { Popover } from 'bits-ui';
  import { goto, invalidate } from '$app/navigation';
  import { page } from '$app/state';
  import { scopeQuery, scopeWindow } from '$lib/scope';
  import type { SavedScope } from '$lib/server/queries/saved-scopes';
  import { briefHere, pinHere, pinsTo } from '$lib/ui/cases/pins.svelte';
  import { sendAndSay } from '$lib/ui/frame/send';
  import { copyText } from '$lib/ui/kit/actions';
  import { absoluteLink, changeScope, currentScope } from './links';

  /** What is done with the scope as a whole: stop it, keep it, hand it on. */
  const saved = $derived((page.data as { saved?: SavedScope[] }).saved ?? []);
  const scope = $derived(currentScope());
  const isPaused = $derived(scope.from !== undefined);
  const current = $derived(pinsTo()?.question);
  let open = $state(false);
  let name = $state('');

  /** A selected window does not move; the present one is selected whole. */
  function pause(): void {
    const { fromUs, toUs } = scopeWindow(scope, (page.data as { nowMs: number }).nowMs);
    void changeScope({ from: Math.round(fromUs / 1000), to: Math.round(toUs / 1000) });
  }
  const resume = (): void => void changeScope({ from: undefined, to: undefined });

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const done = await sendAndSay('POST', '/api/scopes', { name, query: scopeQuery(scope) }, 'Scope saved.');
    if (!done) return;
    name = '';
    await invalidate('tromix:data');
  }
  async function remove(id: number): Promise<void> {
    await sendAndSay('DELETE', '/api/scopes', { id }, '');
    await invalidate('tromix:data');
  }
  function choose(query: string): void {
    open = false;
    void goto(`${page.url.pathname}${query ? `?${query}` : ''}`);
  }
</script>

{#if isPaused}
  <button class="tool" title="Clear the time selection and follow new data" onclick={resume}
    ><PlayIcon size={14} /><span>Go live</span></button
  >
{:else}
  <button class="tool" title="Hold this time range: nothing moves while you read" onclick={pause}
    ><PauseIcon size={14} /><span>Pause</span></button
  >
{/if}
<Popover.Root bind:open>
  <Popover.Trigger class="tool" aria-label="Saved scopes" title="Saved scopes"
    ><BookmarkIcon size={14} /></Popover.Trigger
  >
  <Popover.Portal>
    <Popover.Content class="pop w-72 p-3" align="end" sideOffset={4} role="dialog" aria-label="Saved scopes">
      <h2 class="mb-1 heading">Saved scopes</h2>
      {#each saved as one (one.id)}
        <div class="flex items-center border-b border-grid">
          <button
            class="min-w-0 flex-1 truncate py-1 text-left hover:underline"
            title={one.query}
            onclick={() => choose(one.query)}>{one.name}</button
          >
          <button
            class="p-1 text-ink-3 hover:text-ink"
            aria-label="Remove {one.name}"
            onclick={() => void remove(one.id)}><TrashIcon size={13} /></button
          >
        </div>
      {:else}<p class="text-ink-3">None yet.</p>{/each}
      <form class="mt-2 flex gap-1.5" onsubmit={(event) => void save(event)}>
        <input
          class="min-w-0 flex-1 field"
          placeholder="Name of this scope"
          aria-label="Name of this scope"
          maxlength="80"
          required
          bind:value={name}
        />
        <button class="button button-solid">Save</button>
      </form>
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
<button
  class="tool"
  aria-label="Pin to a case"
  title={current ? `Pin what is shown to “${current}” (p)` : 'Pin what is shown to a case (p)'}
  onclick={() => void pinHere()}><PinIcon size={14} /></button
>
<button
  class="tool"
  aria-label="Brief of this view"
  title="What is shown, for somebody without this tool: to copy, save or print (b)"
  onclick={() => briefHere()}><FileTextIcon size={14} /></button
>
<button
  class="tool"
  aria-label="Copy a link to this time range"
  title="Copy a link to this view and this very time range"
  onclick={() => copyText(absoluteLink())}><LinkIcon size={14} /></button
>
