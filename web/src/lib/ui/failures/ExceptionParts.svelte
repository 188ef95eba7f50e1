<script lang="ts">
  import type { ExceptionText } from '@tromix/core/failures/exception-text';
  import StackFrames from './StackFrames.svelte';
  import { shortType } from './failure-words';

  /** An exception and what it tells of besides: types, messages and stacks. */
  let { read }: { read: ExceptionText } = $props();
  const SAID = {
    itself: '',
    cause: 'Caused by',
    'while handling': 'While this was handled',
    suppressed: 'Suppressed',
    'one of several': 'One of them'
  };
</script>

{#each read.parts as { type, message, relation, frames }, i (i)}
  <p class="mt-1.5 break-words">
    {#if SAID[relation]}<span class="text-[11px] text-ink-3">{SAID[relation]}</span>{/if}
    <b class="font-semibold text-alarm" title={type}>{shortType(type) || 'Exception'}</b>
    {message}
  </p>
  <StackFrames {frames} />
{/each}
{#if read.cut > 0}<p class="text-[11px] text-ink-3">It is longer than what is shown.</p>{/if}
