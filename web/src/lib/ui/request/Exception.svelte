<script lang="ts">
  import { readException } from '@tromix/core/failures/exception-text';
  import { recordedException } from '@tromix/core/failures/failed-span';
  import type { SpanEvent } from '@tromix/core/trace/span';
  import ExceptionParts from '$lib/ui/failures/ExceptionParts.svelte';

  /** An exception a span recorded, with what caused it. */
  let { event }: { event: SpanEvent } = $props();
  const recorded = $derived(recordedException(event.attributes));
  const read = $derived(readException(recorded.stack, recorded));
</script>

<div class="mb-2 rounded-[3px] border border-l-[3px] border-rule border-l-alarm bg-paper px-2 py-1.5">
  <ExceptionParts {read} />
  {#if recorded.stack && read.parts.every(({ frames }) => frames.length === 0)}<pre
      class="max-h-40 overflow-auto num whitespace-pre-wrap">{recorded.stack}</pre>{/if}
</div>
