<script lang="ts">
  import { onMount } from 'svelte';
  import { editorIn } from './when-needed';

  /** Markdown as it is written. What is typed is given on after each change. */
  let {
    value,
    label,
    placeholder = '',
    onchange,
    onblur
  }: {
    value: string;
    label: string;
    placeholder?: string;
    onchange: (text: string) => void;
    onblur?: () => void;
  } = $props();
  let element: HTMLDivElement;

  onMount(() => {
    let view: { destroy: () => void } | null = null;
    let alive = true;
    void editorIn(element, { value, label, placeholder, onchange, onblur }).then((opened) => {
      if (alive) view = opened;
      else opened.destroy();
    });
    return () => {
      alive = false;
      view?.destroy();
    };
  });
</script>

<div
  bind:this={element}
  class="min-h-16 rounded-[3px] border border-rule bg-sheet text-[13px] focus-within:border-steer"
></div>
