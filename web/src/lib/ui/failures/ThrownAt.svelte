<script lang="ts">
  import { readException } from '@tromix/core/failures/exception-text';
  import type { RecordedException } from '@tromix/core/failures/identity';
  import { tellingFrame } from '@tromix/core/failures/identity';
  import Source from '$lib/ui/request/Source.svelte';
  import ExceptionParts from './ExceptionParts.svelte';

  /** Where an exception is thrown: the line of the program's own code, and the stack of it and of what caused it. */
  let { exception, hasSources }: { exception: RecordedException; hasSources: boolean } = $props();
  const read = $derived(readException(exception.stack, exception));
  const telling = $derived(tellingFrame(read));
</script>

{#if telling && telling.line > 0}
  <p class="flex flex-wrap items-baseline justify-between gap-x-3 num">
    <b class="font-[620]">{telling.function || '(anonymous)'}</b>
    <span class="break-all text-ink-2">{telling.file}:{telling.line}</span>
  </p>
  {#key `${telling.file}:${telling.line}`}<Source
      file={telling.file}
      line={telling.line}
      {hasSources}
    />{/key}
{/if}
<ExceptionParts {read} />
{#if exception.stack === ''}<p class="text-ink-3">No stack was recorded.</p>{/if}
