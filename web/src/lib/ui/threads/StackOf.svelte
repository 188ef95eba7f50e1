<script lang="ts">
  import { DOING_WORDS, doingOfThread } from '@tromix/core/threads/doing';
  import type { DumpThread, ThreadDump, ThreadFrame } from '@tromix/core/threads/model';
  import { ownDepth, shortName } from '@tromix/core/threads/places';
  import type { WaitsFor } from '@tromix/core/threads/waits-for';
  import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
  import { copyText } from '$lib/ui/kit/actions';
  import { MODES } from './modes';
  import { stackText } from './stack-text';
  import { lockName } from './waits-words';

  interface Props {
    frames: readonly ThreadFrame[];
    dump: ThreadDump;
    waits: WaitsFor;
    thread: number;
    /** Goes to another thread along the chain. */
    onselect: (thread: number) => void;
    /** Listed to its outer end. */
    whole: boolean;
  }
  let { frames, dump, waits, thread, onselect, whole = $bindable() }: Props = $props();

  const one = $derived<DumpThread>(dump.threads[thread]);
  const own = $derived(ownDepth(frames, one));
  const queue = $derived(waits.queueOf[thread] >= 0 ? waits.queues[waits.queueOf[thread]] : null);
  const holders = $derived(queue?.owners ?? []);
  const held = $derived(waits.heldQueues[thread].map((i) => waits.queues[i]));
  /** Stacks may be thousands deep: the outer part is listed on demand. */
  const SHOWN = 80;
  const shown = $derived(whole ? one.frames : one.frames.subarray(0, SHOWN));
  /** File and line; of a method in the file of its class the line alone. */
  function placeWords({ name, file, line }: ThreadFrame): string {
    if (!file) return '';
    const short = file.slice(file.lastIndexOf('/') + 1);
    const owner = shortName(name).split('.')[0].split('$')[0];
    if (line > 0 && short.replace(/\.\w+$/, '') === owner) return `:${line}`;
    return ` ${short}${line > 0 ? `:${line}` : ''}`;
  }
  const text = $derived(stackText(frames, one));
  const doing = $derived(
    one.system
      ? 'A thread of the runtime itself'
      : DOING_WORDS[doingOfThread(frames, one)].replace(/^./, (sign) => sign.toUpperCase())
  );
  const share = $derived(one.cpuMs !== null && one.elapsedMs ? Math.min(1, one.cpuMs / one.elapsedMs) : null);
  const cpu = $derived.by(() => {
    const life = one.elapsedMs === null ? '' : formatDuration(one.elapsedMs * 1e6);
    if (one.cpuMs === null) return life && `, for ${life}`;
    return `, ${formatDuration(one.cpuMs * 1e6)} of CPU${share === null ? '' : ` in ${life} (${formatShare(share)})`}`;
  });
</script>

<section aria-label="Selected thread">
  <h3 class="mt-3.5 mb-1 flex items-baseline justify-between heading">
    <span class="break-words"
      >{one.name || '(no name)'} · {one.state
        ? one.state.toLowerCase().replaceAll('_', ' ')
        : MODES[one.mode].name}</span
    >
    <button class="hover:text-ink" onclick={() => void copyText(text)}>copy</button>
  </h3>
  <p class="mb-1.5 text-ink-2">
    {doing}{cpu}.
  </p>
  {#if queue}
    <p class="mb-1 text-ink-2">
      Waits for <span class="num" style:color="var(--lock-ink)">{lockName(dump, queue.lock)}</span>,
      {#if holders.length > 0}held by {#each holders as holder, i (holder)}{#if i > 0}
            and
          {/if}<button
            class="font-semibold text-steer underline underline-offset-2"
            onclick={() => onselect(holder)}>{dump.threads[holder].name}</button
          >{/each}.
      {:else if queue.condition}which no thread holds: it waits for a signal.
      {:else}held by no thread named in this dump.{/if}
    </p>
  {/if}
  {#each held as { lock, waiting } (lock)}
    <p class="mb-1 text-ink-2">
      Holds <span class="num" style:color="var(--lock-ink)">{lockName(dump, lock)}</span>, which
      <button
        class="font-semibold text-steer underline underline-offset-2"
        onclick={() => onselect(waiting[0])}
        >{waiting.length === 1
          ? dump.threads[waiting[0]].name
          : `${formatCount(waiting.length)} threads`}</button
      >
      {waiting.length === 1 ? 'waits' : 'wait'} for.
    </p>
  {/each}
  {#if one.frames.length === 0}
    <p class="text-ink-3">It has no stack in this dump.</p>
  {:else}
    <ol class="num leading-[1.55]" aria-label="Stack, innermost first">
      {#each shown as index, depth (depth)}
        {@const frame = frames[index]}
        {@const wanted = one.waitsFor?.depth === depth ? one.waitsFor : null}
        <li
          class="break-words {depth === own
            ? 'font-semibold text-ink'
            : frame.kind === 'runtime'
              ? 'text-ink-3'
              : 'text-ink-2'}"
          title="{frame.name} {frame.file}"
        >
          {shortName(frame.name)}<span class="font-normal text-ink-3">{placeWords(frame)}</span>
          {#if wanted}<span class="block pl-3 font-normal" style:color="var(--lock-ink)"
              >wants {lockName(dump, wanted.lock)}</span
            >{/if}
          {#each one.holds.filter((hold) => hold.depth === depth) as { lock }, i (i)}<span
              class="block pl-3 font-normal"
              style:color="var(--lock-ink)">holds {lockName(dump, lock)}</span
            >{/each}
        </li>
      {/each}
      {#each one.holds.filter(({ depth }) => depth < 0) as { lock }, i (i)}
        <li style:color="var(--lock-ink)">holds {lockName(dump, lock)}</li>
      {/each}
    </ol>
    {#if one.frames.length > shown.length}
      <button class="mt-1 button" onclick={() => (whole = true)}
        >{formatCount(one.frames.length - shown.length)} more frames</button
      >
    {/if}
  {/if}
</section>
