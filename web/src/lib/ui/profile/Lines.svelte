<script lang="ts">
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { javascript } from '@codemirror/lang-javascript';
  import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
  import { EditorState, RangeSetBuilder } from '@codemirror/state';
  import { Decoration, EditorView, GutterMarker, gutter, lineNumbers } from '@codemirror/view';
  import { tags } from '@lezer/highlight';
  import { formatShare, plural } from '@tromix/core/text/format';
  import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
  import { editorLink } from '$lib/ui/request/editor-link';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { preferences } from '$lib/ui/shell/preferences.svelte';
  import type { ProfileClient } from './profile-client.svelte';
  import { formatWeight } from '@tromix/core/profile/units';

  interface Props {
    opened: OpenedProfile;
    view: ProfileView;
    client: ProfileClient;
    hasSources: boolean;
    /** Line to bring into view; 0 for the heaviest. */
    line: number;
    onfile: (file: string) => void;
    /** Where the function of a line is looked at from inside; '' where it cannot be. */
    insideOf: (place: { file: string; line: number }) => string;
  }
  let { opened, view, client, hasSources, line, onfile, insideOf }: Props = $props();

  let host = $state<HTMLDivElement | null>(null);

  const file = $derived(view.file);
  const asked = resource(() => file, textOf);
  const source = $derived(asked.value);

  async function textOf(
    file: string,
    signal: AbortSignal
  ): Promise<{ file: string; text: string; path: string }> {
    const carried = await client.service.text(file);
    if (carried !== null) return { file, text: carried, path: '' };
    if (!hasSources)
      throw new Error(
        'No source folder is configured (TROMIX_SOURCES), and no source map contains this file.'
      );
    const url = `/api/source/whole?file=${encodeURIComponent(file)}`;
    return { file, ...(await send<{ text: string; path: string }>('GET', url, undefined, signal)) };
  }

  const lines = $derived(view.lines);
  const heaviest = $derived(lines?.lines.toSorted((a, b) => b.self - a.self)[0]?.line ?? 1);

  /** The theme's own inks, which both papers can bear. */
  const COLOURS = HighlightStyle.define([
    { tag: [tags.keyword, tags.modifier, tags.operatorKeyword], color: 'var(--steer)' },
    { tag: [tags.string, tags.regexp, tags.number, tags.bool, tags.null], color: 'var(--ink-2)' },
    { tag: tags.comment, color: 'var(--ink-3)', fontStyle: 'italic' },
    {
      tag: [tags.typeName, tags.className, tags.definition(tags.function(tags.variableName))],
      fontWeight: '600'
    }
  ]);

  class Weight extends GutterMarker {
    readonly words: string;
    readonly share: number;
    constructor(words: string, share: number) {
      super();
      this.words = words;
      this.share = share;
    }
    override eq(other: Weight): boolean {
      return this.words === other.words && this.share === other.share;
    }
    override toDOM(): HTMLElement {
      const element = document.createElement('span');
      element.className = 'line-weight';
      element.textContent = this.words;
      element.style.setProperty('--share', String(this.share));
      return element;
    }
  }

  $effect(() => {
    if (!host || !source || !lines) return;
    const own = new Map(lines.lines.map((entry) => [entry.line, entry.self]));
    const totals = new Map<number, number>();
    for (const entry of lines.functions)
      totals.set(entry.line, Math.max(totals.get(entry.line) ?? 0, entry.total));
    const most = Math.max(...own.values(), 1e-9);
    const weightGutter = (name: string, of: ReadonlyMap<number, number>, against: number) =>
      gutter({
        class: `cm-weight ${name}`,
        lineMarker(editor, block) {
          const weight = of.get(editor.state.doc.lineAt(block.from).number);
          return weight ? new Weight(formatShare(weight / (view.sum || 1)), weight / against) : null;
        },
        initialSpacer: () => new Weight('100 %', 0)
      });
    const state = EditorState.create({
      doc: source.text,
      extensions: [
        weightGutter('cm-self', own, most),
        weightGutter('cm-total', totals, view.sum || 1),
        lineNumbers(),
        EditorState.readOnly.of(true),
        EditorView.editable.of(false),
        EditorView.contentAttributes.of({ 'aria-label': `Source of ${view.file}`, tabindex: '0' }),
        syntaxHighlighting(COLOURS),
        /\.[cm]?[jt]sx?$/.test(view.file) ? javascript({ typescript: true, jsx: true }) : [],
        EditorView.decorations.of((editor) => {
          const builder = new RangeSetBuilder<Decoration>();
          for (const { line: at } of lines.lines) {
            if (at > editor.state.doc.lines) continue;
            builder.add(
              editor.state.doc.line(at).from,
              editor.state.doc.line(at).from,
              Decoration.line({ class: 'line-warm' })
            );
          }
          return builder.finish();
        })
      ]
    });
    const editor = new EditorView({ state, parent: host });
    const at = Math.min(line || heaviest, state.doc.lines);
    editor.dispatch({
      effects: EditorView.scrollIntoView(state.doc.line(Math.max(1, at)).from, { y: 'center' })
    });
    return () => editor.destroy();
  });

  /** Why the two columns of a line may not agree. */
  const inlinedWords = $derived.by(() => {
    const [first, ...others] = lines?.inlined ?? [];
    if (!first) return '';
    const share = (weight: number): string => formatShare(weight / (view.sum || 1));
    const more = others.length > 0 ? `, as are ${plural(others.length, 'other line')}` : '';
    return `Line ${first.line} is heavier (${share(first.self)}) than ${opened.frames[first.frame].name}, which begins there (${share(first.total)})${more}: V8 compiled it into its callers, and counts those samples for them.`;
  });

  const short = (file: string): string =>
    file
      .replace(/^file:\/\//, '')
      .split('/')
      .slice(-3)
      .join('/');
  const inside = $derived(insideOf({ file: view.file, line: line || heaviest }));
  const link = $derived(
    editorLink(preferences.editorTemplate, {
      path: source?.path ?? '',
      file: view.file,
      line: line || heaviest
    })
  );
</script>

<div class="flex min-h-0 flex-1 bg-sheet">
  <nav class="w-56 flex-none overflow-auto border-r border-rule" aria-label="Files">
    {#each view.files as { file, self } (file)}
      <button
        class="flex w-full gap-2 border-b border-grid px-2 py-1 text-left hover:bg-steer-soft aria-[current=true]:bg-pen-soft"
        aria-current={file === view.file}
        title={file}
        onclick={() => onfile(file)}
      >
        <span class="min-w-0 flex-1 truncate num" dir="rtl"><bdi>{short(file)}</bdi></span>
        <span class="flex-none num text-ink-2">{formatShare(self / (view.sum || 1))}</span>
      </button>
    {:else}<p class="p-3 text-ink-3">No frame of this selection names a file.</p>{/each}
  </nav>
  <div class="flex min-h-0 min-w-0 flex-1 flex-col">
    {#if lines}
      <p class="flex flex-none items-center gap-3 border-b border-rule px-3 py-1 text-[11px] text-ink-2">
        <span class="truncate num" title={view.file}>{view.file}</span>
        <span class="ml-auto flex-none"
          >{formatWeight(lines.self, opened)} of its own{#if lines.withoutLine > 0}, {formatShare(
              lines.withoutLine / (lines.self || 1)
            )} of that known by function only{/if}</span
        >
        {#if inside}<a
            class="button flex-none"
            href={inside}
            title="Arguments and results of each call of the function at line {line || heaviest}"
            >Calls from inside</a
          >{/if}
        {#if link}<a class="button flex-none" href={link}>Open in your editor</a>{/if}
      </p>
    {/if}
    {#if source && lines}
      <div
        class="source-lines min-h-0 flex-1 overflow-hidden"
        bind:this={host}
        data-testid="source-lines"
      ></div>
      <p class="flex-none border-t border-rule px-3 py-1 text-[11px] text-ink-3">
        {inlinedWords}
        First column: samples at the line itself. Second, at a function’s first line: with everything it calls.
        V8 names the line of the running function only, not the lines of its callers.
      </p>
    {:else if lines}
      {#if asked.error}<p class="px-3 py-1.5 text-ink-2">
          {asked.error} Lines and their weights are known all the same:
        </p>{/if}
      {#if inlinedWords}<p class="px-3 py-1.5 text-ink-2">{inlinedWords}</p>{/if}
      <ScrollRegion label="Lines">
        <table class="w-full border-collapse num">
          <thead
            ><tr class="border-b border-rule"
              ><th class="column text-right">line</th><th class="column text-right">self</th><th
                class="column text-right">share</th
              ><th class="column">function that begins here</th></tr
            ></thead
          >
          <tbody>
            {#each lines.lines as { line: at, self } (at)}
              <tr class="border-b border-grid">
                <td class="px-2 py-1 text-right">{at}</td>
                <td class="px-2 text-right">{formatWeight(self, opened)}</td>
                <td class="px-2 text-right">{formatShare(self / (view.sum || 1))}</td>
                <td class="px-2"
                  >{lines.functions
                    .filter((entry) => entry.line === at)
                    .map(({ frame }) => opened.frames[frame].name)
                    .join(', ')}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      </ScrollRegion>
    {:else}<p class="p-4 text-ink-3">No file is chosen.</p>{/if}
  </div>
</div>

<style>
  .source-lines :global(.cm-editor) {
    height: 100%;
    background: var(--sheet);
    color: var(--ink);
    font-family: var(--font-mono);
    font-size: 12px;
  }
  .source-lines :global(.cm-gutters) {
    background: var(--paper);
    color: var(--ink-3);
    border-right: 1px solid var(--rule);
  }
  .source-lines :global(.cm-weight) {
    min-width: 58px;
    text-align: right;
  }
  .source-lines :global(.line-weight) {
    display: block;
    padding: 0 6px;
    color: var(--ink);
    background: linear-gradient(to left, var(--pen-soft) calc(var(--share) * 100%), transparent 0);
  }
  .source-lines :global(.line-warm) {
    background: color-mix(in srgb, var(--pen-soft) 45%, transparent);
  }
</style>
