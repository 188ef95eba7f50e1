<script lang="ts">
  import type { AboutLine, SourceText } from '$lib/server/sources/source-text';
  import { plural } from '@tromix/core/text/format';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import { editorLink, templateFault } from './editor-link';

  /** The text around a recorded line, and the way into the developer's editor. */
  let {
    file,
    line,
    hasSources,
    linkOf = () => '',
    inside = ''
  }: {
    file: string;
    line: number;
    hasSources: boolean;
    /** Address of a line at the revision that ran; '' where it is not known. */
    linkOf?: (place: { file: string; line: number }) => string;
    /** Where the function of that line is looked at from inside; '' where it is none that can be. */
    inside?: string;
  } = $props();
  const asked = resource(
    () => (hasSources ? `/api/source?file=${encodeURIComponent(file)}&line=${line}` : null),
    (url, signal) => send<SourceText & AboutLine>('GET', url, undefined, signal)
  );
  const source = $derived(asked.value);
  const link = $derived(
    editorLink(preferences.editorTemplate, { path: source?.path ?? '', file, line: source?.line ?? line })
  );
  const revisionLink = $derived(linkOf(source ?? { file: file.replace(/^file:\/\//, ''), line }));
  let template = $derived(preferences.editorTemplate);
  const fault = $derived(templateFault(template));
</script>

<div class="mb-2">
  <!-- The text has its room before it comes. -->
  <div class={hasSources ? 'min-h-[290px]' : ''}>
    {#if source}
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <pre
        tabindex="0"
        role="region"
        aria-label="Source of {source.file}"
        class="overflow-x-auto rounded-[3px] border border-rule bg-paper py-1 num text-[11px] leading-[1.5]"
        data-testid="source">{#each source.lines as text, i (i)}{@const at = source.from + i}<span
            class="block px-1.5 {at === source.line ? 'bg-pen-soft' : ''}"
            ><span class="mr-2 inline-block w-8 text-right text-ink-3 select-none">{at}</span>{text}
</span>{/each}</pre>
      {#if source.file !== file}<p class="text-[11px] text-ink-3">
          Mapped to {source.file}:{source.line}.
        </p>{/if}
      {#if source.owners || source.tested !== null}<p class="text-[11px] text-ink-2">
          {#if source.owners}{source.owners.length > 0
              ? `Owned by ${source.owners.join(', ')}.`
              : 'Nobody owns it, by its CODEOWNERS file.'}
          {/if}{#if source.tested !== null}{source.tested > 0
              ? `Tests ran this line ${plural(source.tested, 'time')}.`
              : 'No test runs this line.'}{/if}
        </p>{/if}
    {:else if asked.error}<p class="text-[11px] text-ink-3">{asked.error}</p>{/if}
  </div>
  <div class="mt-1 flex items-center gap-2">
    {#if link}<a class="button" href={link}>Open in your editor</a>{/if}
    {#if revisionLink}<a class="button" href={revisionLink} rel="noreferrer">At its revision</a>{/if}
    {#if inside}<a class="button" href={inside} title="Arguments and results of each call of its function"
        >Calls from inside</a
      >{/if}
    <details class="text-[11px] text-ink-3">
      <summary>Editor link</summary>
      <label class="mt-1 block"
        >An address your editor understands, with {'{path}'}, {'{file}'} and {'{line}'}; kept in this browser
        <input
          class="mt-0.5 block w-full field num text-[11px]"
          placeholder="editor://open?file={'{path}'}&line={'{line}'}"
          bind:value={template}
          onchange={() => fault === '' && preferences.setEditorTemplate(template)}
        /></label
      >
      {#if fault}<p class="text-alarm">{fault}</p>{/if}
    </details>
  </div>
</div>
