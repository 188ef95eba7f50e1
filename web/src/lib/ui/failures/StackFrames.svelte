<script lang="ts">
  import { repeatsIn } from '@tromix/core/failures/recursion';
  import type { StackFrame } from '@tromix/core/failures/stack-frame';
  import { formatCount, plural } from '@tromix/core/text/format';

  /** Frames of a stack, innermost first: the program's own to the eye, the others folded, what repeats once. */
  let { frames }: { frames: readonly StackFrame[] } = $props();
  /** More are no use to anybody. */
  const MOST = 300;
  interface Run {
    application: boolean;
    frames: StackFrame[];
    times: number;
  }
  const runs = $derived.by(() => {
    const repeats = new Map(repeatsIn(frames).map((repeat) => [repeat.from, repeat]));
    const list: Run[] = [];
    for (let i = 0; i < frames.length; i++) {
      const repeat = repeats.get(i);
      if (repeat) {
        const part = frames.slice(i, i + repeat.length);
        list.push({
          application: part.some(({ application }) => application),
          frames: part,
          times: repeat.times
        });
        i += repeat.length * repeat.times - 1;
        continue;
      }
      const last = list.at(-1);
      if (last?.times === 1 && last.application === frames[i].application) last.frames.push(frames[i]);
      else list.push({ application: frames[i].application, frames: [frames[i]], times: 1 });
    }
    return list.slice(0, MOST);
  });
  const placeOf = ({ file, line }: StackFrame): string => (line > 0 ? `${file}:${line}` : file);
</script>

{#each runs as { application, frames: run, times }, i (i)}
  {#if times > 1}<p class="text-[11px] text-alarm">{formatCount(times)} times, one in the other:</p>{/if}
  {#if application}
    {#each run as frame, i (i)}
      <p class="num break-all {times > 1 ? 'border-l-2 border-alarm pl-1.5' : ''}">
        <b class="font-[620]">{frame.function || '(anonymous)'}</b>
        <span class="text-ink-2">{placeOf(frame)}</span>
      </p>
    {/each}
  {:else}
    <details>
      <summary class="text-[11px] text-ink-3"
        >{plural(run.length, 'frame')} of the runtime and of dependencies</summary
      >
      {#each run as frame, i (i)}
        <p class="num break-all text-ink-3">{frame.function || '(anonymous)'} {placeOf(frame)}</p>
      {/each}
    </details>
  {/if}
{/each}
