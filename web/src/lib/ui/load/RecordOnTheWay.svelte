<script lang="ts">
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { nameOf, type Target } from '$lib/ui/recorder/recording-words';

  type What = 'cpu' | 'heap' | 'threads';
  /** Which processes are recorded while a run goes on, and what of them. */
  let { chosen = $bindable() }: { chosen: { address: string; what: What }[] } = $props();
  const targets = resource(
    () => '/api/recordings/targets',
    (url, signal) => send<Target[]>('GET', url, undefined, signal)
  );
  const KINDS: [What, string][] = [
    ['cpu', 'CPU profile while it runs'],
    ['threads', 'thread dump under full load'],
    ['heap', 'heap dump before and after']
  ];
  const isChosen = (address: string, what: What): boolean =>
    chosen.some((one) => one.address === address && one.what === what);
  function toggle(address: string, what: What): void {
    chosen = isChosen(address, what)
      ? chosen.filter((one) => one.address !== address || one.what !== what)
      : [...chosen, { address, what }];
  }
</script>

{#if targets.value && targets.value.length > 0}
  <table class="border-collapse">
    <tbody>
      {#each targets.value as target (target.address)}
        <tr>
          <th scope="row" class="py-0.5 pr-4 text-left font-[560]">{nameOf(target)}</th>
          {#each KINDS as [what, words] (what)}
            <td class="pr-4"
              ><label class="flex items-center gap-1.5"
                ><input
                  type="checkbox"
                  checked={isChosen(target.address, what)}
                  onchange={() => toggle(target.address, what)}
                  aria-label="{words} of {nameOf(target)}"
                />{words}</label
              ></td
            >
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
{:else if targets.error}<p class="text-alarm" role="alert">{targets.error}</p>
{:else if targets.value}<p class="text-ink-2">
    No process with an open inspector was found. <code class="num">tromix run</code> opens one.
  </p>
{:else}<p class="text-ink-3" role="status">Looking for processes…</p>{/if}
