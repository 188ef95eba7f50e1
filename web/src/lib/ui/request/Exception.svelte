<script lang="ts">
  import { parseStack } from '@tromix/core/trace/stack-text';
  import { textOf, type SpanEvent } from '@tromix/core/trace/span';
  import { plural } from '@tromix/core/text/format';

  /** An exception a span recorded: its type, message and stack, the application's own frames first to the eye. */
  let { event }: { event: SpanEvent } = $props();
  const type = $derived(textOf(event.attributes, 'exception.type') || 'Exception');
  const message = $derived(textOf(event.attributes, 'exception.message'));
  const text = $derived(textOf(event.attributes, 'exception.stacktrace'));
  const frames = $derived(parseStack(text));
  /** Runs of frames that are the application's, and runs that are not. */
  const runs = $derived.by(() => {
    const list: { application: boolean; frames: typeof frames }[] = [];
    for (const frame of frames) {
      const last = list.at(-1);
      if (last?.application === frame.application) last.frames.push(frame);
      else list.push({ application: frame.application, frames: [frame] });
    }
    return list;
  });
</script>

<div class="mb-2 rounded-[3px] border border-l-[3px] border-rule border-l-alarm bg-paper px-2 py-1.5">
  <p class="font-semibold break-words text-alarm">{type}</p>
  {#if message}<p class="mb-1 break-words">{message}</p>{/if}
  {#each runs as { application, frames: run }, i (i)}
    {#if application}
      {#each run as frame, i (i)}
        <p class="num break-all">
          <b class="font-[620]">{frame.function || '(anonymous)'}</b>
          <span class="text-ink-2">{frame.file}:{frame.line}</span>
        </p>
      {/each}
    {:else}
      <details>
        <summary class="text-[11px] text-ink-3"
          >{plural(run.length, 'frame')} of the runtime and of dependencies</summary
        >
        {#each run as frame, i (i)}
          <p class="num break-all text-ink-3">{frame.function || '(anonymous)'} {frame.file}:{frame.line}</p>
        {/each}
      </details>
    {/if}
  {/each}
  {#if frames.length === 0 && text}<pre
      class="max-h-40 overflow-auto num whitespace-pre-wrap">{text}</pre>{/if}
</div>
