<script lang="ts">
  import { Dialog } from 'bits-ui';
  import { VIEWS } from '$lib/views';
  import { keysOfScreen, type ScreenKey } from '$lib/ui/frame/keys.svelte';
  import { shellState } from './shell-state.svelte';

  const EVERYWHERE: ScreenKey[] = [
    { keys: '/', does: 'find an endpoint, call, evidence or command' },
    { keys: '?', does: 'this list' },
    { keys: 'p', does: 'pin what is shown to a case' },
    { keys: 'b', does: 'a brief of what is shown' },
    ...VIEWS.map(({ name, key }) => ({ keys: `g ${key}`, does: `go to ${name}` })),
    { keys: '← →', does: 'on the time rail: move the selection' },
    { keys: 'Shift ← →', does: 'on the time rail: make it shorter, longer' },
    { keys: 'Esc', does: 'on the time rail: clear the selection' }
  ];
</script>

<Dialog.Root bind:open={shellState.keysOpen}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-ink/20" />
    <Dialog.Content
      class="fixed top-16 left-1/2 pop max-h-[calc(100vh-6rem)] w-[720px] max-w-[calc(100vw-2rem)] -translate-x-1/2 overflow-auto p-4"
    >
      <Dialog.Title class="mb-2 text-[15px] font-semibold">Keys</Dialog.Title>
      <Dialog.Description class="sr-only">What the keys do on this screen and everywhere.</Dialog.Description>
      {#each [{ name: 'This screen', list: keysOfScreen() }, { name: 'Everywhere', list: EVERYWHERE }] as { name, list } (name)}
        {#if list.length > 0}
          <h3 class="mt-2 mb-1 heading">{name}</h3>
          <dl class="grid grid-cols-[84px_1fr_84px_1fr] gap-x-2 gap-y-1">
            {#each list as { keys, does } (keys)}
              <dt class="num">{keys}</dt>
              <dd class="text-ink-2">{does}</dd>
            {/each}
          </dl>
        {/if}
      {/each}
      <p class="mt-3 text-[12px]">
        <a
          class="text-steer underline underline-offset-2"
          href="/glossary"
          onclick={() => (shellState.keysOpen = false)}>Glossary: what the words mean</a
        >
      </p>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
