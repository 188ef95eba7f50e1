<script lang="ts">
  import { Dialog } from 'bits-ui';
  import { toast } from 'svelte-sonner';
  import { briefFileName } from '@tromix/core/case/brief';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { copyText } from '$lib/ui/kit/actions';
  import { saveText } from '$lib/ui/kit/save-text';
  import { briefing } from './pins.svelte';

  /** A brief as it will be read, to be copied, saved or printed. */
  let length = $state<'short' | 'full'>('full');
  let sheet = $state<HTMLIFrameElement | null>(null);
  const of = $derived(briefing.of);
  const shown = resource(
    () => of && { of, length },
    async ({ of, length }) => textOf(await of.ask(length, 'html'))
  );

  async function textOf(response: Response): Promise<string> {
    if (response.ok) return response.text();
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    throw new Error(message ?? 'The brief could not be written.');
  }
  async function withText(as: 'html' | 'md', use: (text: string) => void): Promise<void> {
    try {
      if (of) use(await textOf(await of.ask(length, as)));
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
  const fileName = (ending: string): string => `${briefFileName(of?.title ?? '')}.${ending}`;
</script>

<Dialog.Root open={of !== null} onOpenChange={(open) => !open && (briefing.of = null)}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/30" />
    <Dialog.Content
      class="fixed top-[5%] left-1/2 z-50 flex h-[88vh] w-[820px] max-w-[94vw] -translate-x-1/2 flex-col rounded border border-rule bg-sheet shadow-lg"
    >
      <div class="flex flex-wrap items-center gap-1.5 border-b border-rule px-4 py-2">
        <Dialog.Title class="mr-2 text-[15px] font-semibold">Brief</Dialog.Title>
        {#each ['full', 'short'] as const as one (one)}
          <button class="toggle" aria-pressed={length === one} onclick={() => (length = one)}>{one}</button>
        {/each}
        <span class="ml-auto flex flex-wrap gap-1.5">
          <button class="button" onclick={() => void withText('md', copyText)}>Copy Markdown</button>
          <button class="button" onclick={() => void withText('md', (text) => saveText(fileName('md'), text))}
            >Save Markdown</button
          >
          <button
            class="button"
            onclick={() => void withText('html', (text) => saveText(fileName('html'), text))}
            >Save HTML</button
          >
          <button class="button" onclick={() => sheet?.contentWindow?.print()}>Print</button>
          <Dialog.Close class="button">Close</Dialog.Close>
        </span>
      </div>
      <Dialog.Description class="sr-only"
        >What a colleague needs who does not have this tool, as it will be read.</Dialog.Description
      >
      {#if shown.value}
        <!-- Nothing in it runs: it is only shown, and printed from outside. -->
        <iframe
          bind:this={sheet}
          class="min-h-0 flex-1"
          title="Brief: {of?.title}"
          srcdoc={shown.value}
          sandbox="allow-same-origin allow-modals"
        ></iframe>
      {:else}<Asking of={shown} doing="Writing the brief…" />{/if}
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
