<script lang="ts">
  import { readException } from '@tromix/core/failures/exception-text';
  import type { RecordedException } from '@tromix/core/failures/identity';
  import { tellingFrame } from '@tromix/core/failures/identity';
  import { sourceLink, type Revision } from '@tromix/core/text/source-link';
  import { lineInsideLink } from '$lib/ui/recorder/observe-link';
  import Source from '$lib/ui/request/Source.svelte';
  import ExceptionParts from './ExceptionParts.svelte';

  /** Where an exception is thrown: the line of the program's own code, and the stack of it and of what caused it. */
  let {
    exception,
    hasSources,
    service,
    source,
    template = ''
  }: {
    exception: RecordedException;
    hasSources: boolean;
    service: string;
    /** Which revision ran, and the template of addresses of its lines. */
    source?: Revision;
    template?: string;
  } = $props();
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
      inside={lineInsideLink({ ...telling, name: telling.function }, { service })}
      linkOf={(place) => (source ? sourceLink(template, source, place) : '')}
    />{/key}
{/if}
<ExceptionParts {read} />
{#if source?.revision}<p class="text-[11px] text-ink-3">
    Revision <span class="num">{source.revision.slice(0, 40)}</span>.
  </p>{/if}
{#if exception.stack === ''}<p class="text-ink-3">No stack was recorded.</p>{/if}
