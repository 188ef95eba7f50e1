<script lang="ts">
  import { formatBytes, formatCount, plural } from '@tromix/core/text/format';
  import type { RootPathSteps } from './heap-client';

  interface Props {
    path: RootPathSteps;
    about: string;
    onselect: (object: number) => void;
  }
  let { path, about, onselect }: Props = $props();
  const short = (name: string): string => name.slice(name.lastIndexOf('.') + 1);
  /** After the path's beginning, where steps were left out. */
  const HEAD = 40;
</script>

<section class="border-t border-rule" aria-label="Why it is still here">
  <h2 class="px-4 pt-2 text-[13px]">
    {#if path.steps.length === 0}Nothing holds <span class="num">{about}</span>: it is only waiting to be
      cleared away
    {:else}Why <span class="num">{about}</span> is still here{/if}
  </h2>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <ol
    class="flex items-center overflow-x-auto px-4 py-2 whitespace-nowrap"
    tabindex="0"
    aria-label="The path from a root"
  >
    {#each path.steps as step, i (i)}
      {#if i > 0}
        <li class="flex items-center num text-[10.5px] text-ink-2" aria-hidden="true">
          {#if i === HEAD && path.leftOut > 0}<span class="px-1">… {formatCount(path.leftOut)} more …</span
            >{/if}
          <span class="px-1">—.{step.via || '?'}→</span>
        </li>
      {/if}
      <li>
        <button
          class="rounded-[3px] border px-2 py-0.5 text-left num leading-tight hover:bg-pen-soft {step.own
            ? 'border-pen bg-pen-soft font-semibold'
            : 'border-rule bg-sheet'}"
          title="{step.className}{step.own ? ', the program’s own' : ''}"
          aria-label="{i > 0 ? `by ${step.via}: ` : ''}{step.className}, {formatBytes(step.retained)}"
          onclick={() => onselect(step.object)}
          >{short(step.className)}<span class="block text-[10.5px] font-normal text-ink-3"
            >{i === 0 && step.root ? step.root : formatBytes(step.retained)}</span
          ></button
        >
      </li>
    {/each}
  </ol>
  {#if path.roots.length > 1}
    <details class="px-4 pb-2 text-[11px] text-ink-2">
      <summary
        >Held from {plural(path.roots.length, 'root')}{path.roots.length >= 20 ? ' or more' : ''}</summary
      >
      <ul class="mt-1 max-h-24 overflow-y-auto num">
        {#each path.roots as { step, steps } (step.object)}
          <li>
            <button class="hover:underline" onclick={() => onselect(step.object)}
              >{step.className}, {step.root}, {plural(steps, 'step')} away</button
            >
          </li>
        {/each}
      </ul>
    </details>
  {/if}
</section>
