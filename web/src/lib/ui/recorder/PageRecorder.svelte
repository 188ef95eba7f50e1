<script lang="ts">
  import { goto, invalidate } from '$app/navigation';
  import { toast } from 'svelte-sonner';
  import { CPU_SLOWDOWNS, NETWORKS, NETWORK_NAMES, type NetworkName } from '@tromix/core/pages/slow-down';
  import { send } from '$lib/ui/frame/send';
  import { viewLink } from '$lib/ui/shell/links';
  import Labelled from '$lib/ui/kit/Labelled.svelte';

  /** Records a load of a page, in a browser whose debugging port is open. */
  let url = $state('');
  let address = $state('127.0.0.1:9222');
  let device = $state<'desktop' | 'phone'>('desktop');
  let cpu = $state<number>(1);
  let network = $state<NetworkName>('none');
  let release = $state('');
  let recording = $state(false);

  async function begin(): Promise<void> {
    recording = true;
    try {
      const order = { address, url, device, cpu, network, release };
      const { load } = await send<{ load: string }>('POST', '/api/recordings/pages', order);
      await invalidate('tromix:recordings');
      toast.success('The page is recorded.', {
        action: { label: 'Open it', onClick: () => void goto(`/pages/loads/${load}`) }
      });
    } catch (cause) {
      toast.error((cause as Error).message);
    }
    recording = false;
  }
</script>

<form
  class="flex flex-wrap items-end gap-x-4 gap-y-2 border-b border-rule px-4 py-3"
  aria-label="Record a page"
  onsubmit={(event) => {
    event.preventDefault();
    void begin();
  }}
>
  <Labelled label="load the page"
    ><input
      class="w-72 field"
      type="url"
      placeholder="http://127.0.0.1:3000/"
      required
      bind:value={url}
    /></Labelled
  >
  <Labelled label="in the browser at"><input class="w-36 field num" required bind:value={address} /></Labelled
  >
  <Labelled label="as a"
    ><select class="field" bind:value={device}
      ><option value="desktop">desktop</option><option value="phone">phone</option></select
    ></Labelled
  >
  <Labelled label="with a CPU slower by"
    ><select class="field" bind:value={cpu}
      >{#each CPU_SLOWDOWNS as times (times)}<option value={times}
          >{times === 1 ? 'nothing' : `${times} times`}</option
        >{/each}</select
    ></Labelled
  >
  <Labelled label="over a network"
    ><select class="field" bind:value={network}
      >{#each NETWORK_NAMES as name (name)}<option value={name}>{NETWORKS[name].name}</option>{/each}</select
    ></Labelled
  >
  <Labelled label="release"><input class="w-24 field" maxlength="100" bind:value={release} /></Labelled>
  <button class="button button-solid" disabled={recording}
    >{recording ? 'Loading it twice…' : 'Record the page'}</button
  >
  <p class="w-full text-[11px] text-ink-3">
    It is loaded once, slowed down and with its profile, and once more to see which script it does not use.
    Start Chromium with <code class="num">--remote-debugging-port=9222</code>; nothing of the page stays in
    it. What was recorded stands in
    <a class="underline decoration-dotted" href={viewLink('/pages')}>Pages</a>, below what visitors saw.
  </p>
</form>
