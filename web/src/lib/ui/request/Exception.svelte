<script lang="ts">
  import { readException } from '@tromix/core/failures/exception-text';
  import { recordedException } from '@tromix/core/failures/failed-span';
  import type { SpanEvent } from '@tromix/core/trace/span';
  import StackFrames from '$lib/ui/failures/StackFrames.svelte';

  /** An exception a span recorded, and what caused it: types, messages and stacks, the application's own frames first to the eye. */
  let { event }: { event: SpanEvent } = $props();
  const recorded = $derived(recordedException(event.attributes));
  const parts = $derived(readException(recorded.stack, recorded).parts);
  const SAID = {
    itself: '',
    cause: 'Caused by',
    'while handling': 'While this was handled',
    suppressed: 'Suppressed',
    'one of several': 'One of them'
  };
</script>

<div class="mb-2 rounded-[3px] border border-l-[3px] border-rule border-l-alarm bg-paper px-2 py-1.5">
  {#each parts as { type, message, relation, frames }, i (i)}
    {#if SAID[relation]}<p class="mt-1.5 text-[11px] text-ink-3">{SAID[relation]}</p>{/if}
    <p class="font-semibold break-words text-alarm">{type || 'Exception'}</p>
    {#if message}<p class="mb-1 break-words">{message}</p>{/if}
    <StackFrames {frames} />
  {/each}
  {#if parts.every(({ frames }) => frames.length === 0) && recorded.stack}<pre
      class="max-h-40 overflow-auto num whitespace-pre-wrap">{recorded.stack}</pre>{/if}
</div>
