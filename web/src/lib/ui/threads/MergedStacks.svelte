<script lang="ts">
  import { untrack } from 'svelte';
  import { UNSHAPED } from '@tromix/core/profile/shape';
  import { formatCount } from '@tromix/core/text/format';
  import Asking from '$lib/ui/frame/Asking.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import FlameGraph from '$lib/ui/profile/FlameGraph.svelte';
  import type { Zoom } from '$lib/ui/profile/flame-view';
  import FunctionTable from '$lib/ui/profile/FunctionTable.svelte';
  import { ProfileClient } from '$lib/ui/profile/profile-client.svelte';
  import type { ThreadsClient } from './threads-client.svelte';

  /** The stacks of the chosen threads as a flame graph: each thread counts one. */
  interface Props {
    client: ThreadsClient;
    dump: number;
    threads: number[];
    /** Name of the function that is chosen; '' for none. */
    chosen: string;
    onchosen: (name: string) => void;
    /** Part of the picture that is in view. */
    zoom: Zoom;
  }
  let { client, dump, threads, chosen, onchosen, zoom = $bindable() }: Props = $props();

  let flame = $state.raw<ProfileClient | null>(null);
  let selected = $state(-1);
  let frame = $state(-1);
  const merged = resource(
    () => ({ client, dump, threads }),
    (asked) => asked.client.service.merged(asked.dump, asked.threads)
  );
  $effect(() => {
    if (!merged.value) return;
    const open = new ProfileClient({ profile: merged.value });
    flame = open;
    open.show({
      show: 'root',
      selection: { spans: null, thread: -1, includeIdle: true },
      shaping: UNSHAPED,
      frame: -1,
      file: '',
      zoom: { from: 0, to: 1 },
      pixels: 0,
      moving: false
    });
    return () => {
      open.close();
      flame = null;
      selected = frame = -1;
    };
  });
  const opened = $derived(flame?.opened ?? null);
  const view = $derived(flame?.view ?? null);
  /** What a link chose is chosen once the stacks are there. */
  $effect(() => {
    if (opened)
      frame = untrack(() => opened.frames.findIndex(({ name }) => chosen !== '' && name === chosen));
  });
  function choose(at: number): void {
    frame = frame === at ? -1 : at;
    onchosen(frame < 0 ? '' : opened!.frames[frame].name);
  }
</script>

{#if threads.length === 0}
  <p class="grid flex-1 place-items-center bg-sheet text-ink-2">No threads match the filters.</p>
{:else if opened && view}
  <FlameGraph
    {opened}
    {view}
    found={frame >= 0 ? new Set([frame]) : null}
    title="Stacks of {formatCount(threads.length)} threads, merged from the root"
    format={(weight) => `${formatCount(weight)} ${weight === 1 ? 'thread' : 'threads'}`}
    whole="threads"
    bind:zoom
    bind:selected
  />
  <div class="h-[36%] min-h-36 border-t border-rule bg-sheet">
    <FunctionTable
      {opened}
      functions={view.functions}
      sum={view.sum}
      found={null}
      selected={selected >= 0 ? view.nodeFrame[selected] : frame}
      onselect={choose}
      onmenu={() => undefined}
    />
  </div>
{:else}
  <Asking of={merged} doing="Merging the stacks…" />
{/if}
