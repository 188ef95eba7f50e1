<script lang="ts">
  import { ALL_RULES } from '@tromix/core/findings/all-rules';
  import { copyText } from '$lib/ui/kit/actions';
  import { Dialog } from 'bits-ui';
  import { goto } from '$app/navigation';
  import type { PaletteHit } from '$lib/server/queries/palette';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { preferences } from './preferences.svelte';
  import { NO_PICKS } from '$lib/scope';
  import { VIEWS } from '$lib/views';
  import { absoluteLink, evidenceLink, viewLink } from './links';
  import { answersTo, formsFrom, questionOf } from './questions';
  import { shellState } from './shell-state.svelte';

  interface Entry {
    label: string;
    detail: string;
    run: () => void;
    /** The palette stays open. */
    stays?: boolean;
  }

  let text = $state('');
  const query = $derived(shellState.paletteOpen ? text.trim() : '');
  let chosen: number = $derived((void query, 0));
  /** A question in words: what it is about is searched for, not the question. */
  const question = $derived(questionOf(query));
  const search = resource(
    () => (question ? question.name : query) || null,
    (asked, signal) =>
      send<PaletteHit[]>('GET', `/api/palette?q=${encodeURIComponent(asked)}`, undefined, signal),
    { keep: true, afterMs: 80 }
  );
  const hits = $derived(search.value ?? []);

  const open = (path: string): void => void goto(path);
  const commands: Entry[] = [
    ...VIEWS.map(({ name, path, key }) => ({
      label: `Go to ${name}`,
      detail: `g ${key}`,
      run: () => open(viewLink(path))
    })),
    { label: 'Clear the scope', detail: 'command', run: () => open('/') },
    { label: 'Keep rules', detail: 'which requests are kept', run: () => open('/evidence/keep') },
    {
      label: 'Background work',
      detail: 'root spans that serve no caller',
      run: () => open(viewLink('/requests/background'))
    },
    {
      label: 'Explore',
      detail: 'requests or calls by any attribute',
      run: () => open(viewLink('/requests/explore'))
    },
    { label: 'Webhooks', detail: 'who is told of watches', run: () => open('/watches/webhooks') },
    { label: 'Sessions', detail: 'who is signed in', run: () => open('/sessions') },
    { label: 'Glossary', detail: 'what the words mean', run: () => open('/glossary') },
    ...ALL_RULES.flatMap(({ rules }) =>
      rules.map(({ rule, name }) => ({
        label: `Rule: ${name}`,
        detail: rule,
        run: () => open(viewLink(`/findings/${rule}`))
      }))
    ),
    { label: 'Copy a link to this time range', detail: 'command', run: () => copyText(absoluteLink()) },
    {
      label: 'Switch between light and dark',
      detail: 'command',
      run: () => preferences.setTheme(preferences.theme === 'dark' ? 'light' : 'dark')
    },
    { label: 'Fold or open the reading', detail: 'command', run: () => preferences.toggleReading() }
  ];

  function pathOf(hit: PaletteHit): string {
    switch (hit.kind) {
      case 'service':
        return viewLink('/', { service: hit.name, endpoint: '' });
      case 'host':
        return viewLink('/', { host: hit.name });
      case 'release':
        return viewLink('/', { release: hit.name });
      case 'endpoint':
        return viewLink('/endpoint', { service: hit.service, endpoint: hit.name });
      case 'call':
        return viewLink(`/calls/${hit.group}`);
      case 'page':
        return viewLink(`/pages/${hit.id}`);
      case 'watch':
        return viewLink(`/watches/${hit.id}`);
      case 'board':
        return viewLink(`/boards/${hit.id}`);
      case 'evidence':
        return evidenceLink({ kind: hit.of, id: hit.id });
      case 'named':
        return evidenceLink({ kind: hit.of, id: hit.id }, {}, hit.name);
      case 'request':
        return viewLink(`/requests/${hit.traceId}/${hit.spanId}`, NO_PICKS);
    }
  }
  const entryOf = (hit: PaletteHit): Entry => ({
    label: hit.label,
    detail: hit.detail,
    run: () => open(pathOf(hit))
  });

  const answers = $derived<Entry[]>(
    question
      ? answersTo(query, question, question.name ? hits : []).map(
          ({ sentence, by, path, change, choices }) => ({
            label: sentence,
            detail: by,
            run: () => open(viewLink(path, { ...NO_PICKS, ...change }, choices))
          })
        )
      : []
  );
  /** Questions that begin as the text does: choosing one goes on with it. */
  const begun = $derived<Entry[]>(
    formsFrom(query).map((template) => ({
      label: template,
      detail: 'a question: go on typing',
      stays: true,
      run: () => (text = template.slice(0, template.indexOf('…')))
    }))
  );
  const entries = $derived([
    ...answers,
    ...begun,
    ...(question ? [] : hits.map(entryOf)),
    ...commands.filter(({ label }) => label.toLowerCase().includes(text.trim().toLowerCase()))
  ]);

  // A search of yesterday is in the way of today's.
  $effect(() => {
    if (shellState.paletteOpen) text = '';
  });

  function run(entry: Entry | undefined): void {
    if (!entry) return;
    if (!entry.stays) {
      shellState.paletteOpen = false;
      text = '';
    }
    entry.run();
  }

  function onkeydown(event: KeyboardEvent): void {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      chosen = (chosen + step + entries.length) % Math.max(1, entries.length);
      document.getElementById(`palette-${chosen}`)?.scrollIntoView({ block: 'nearest' });
    } else if (event.key === 'Enter') {
      event.preventDefault();
      run(entries[chosen]);
    }
  }
</script>

<Dialog.Root bind:open={shellState.paletteOpen}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-ink/20" />
    <Dialog.Content class="fixed top-20 left-1/2 pop w-[560px] max-w-[90vw] -translate-x-1/2">
      <Dialog.Title class="sr-only">Find</Dialog.Title>
      <Dialog.Description class="sr-only"
        >Find an endpoint, call, function, class, thread, id, evidence, view or command.</Dialog.Description
      >
      <input
        class="w-full border-b border-rule bg-transparent px-4 py-2.5 text-[15px] outline-none placeholder:text-ink-3"
        placeholder="A name, a trace id, a view, or a question: why is … slow"
        role="combobox"
        aria-label="Find"
        aria-expanded="true"
        aria-controls="palette-list"
        aria-activedescendant={entries.length > 0 ? `palette-${chosen}` : undefined}
        bind:value={text}
        {onkeydown}
      />
      <ul id="palette-list" role="listbox" aria-label="Found" class="max-h-[50vh] overflow-y-auto py-1">
        {#each entries as entry, i (i)}
          <li
            id="palette-{i}"
            role="option"
            aria-selected={i === chosen}
            class="flex cursor-pointer gap-4 px-4 py-1 aria-selected:bg-steer-soft"
            onpointermove={() => (chosen = i)}
            onclick={() => run(entry)}
            onkeydown={() => undefined}
          >
            <span class="truncate">{entry.label}</span>
            <span class="ml-auto flex-none text-ink-3">{entry.detail}</span>
          </li>
        {:else}
          <li class="px-4 py-1 text-ink-3">
            {search.asking
              ? 'Searching…'
              : search.error ||
                (question?.name === ''
                  ? `Of what? ${question.form.template}`
                  : 'Nothing has this name. Try a part of it.')}
          </li>
        {/each}
      </ul>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
