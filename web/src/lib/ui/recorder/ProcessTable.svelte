<script lang="ts">
  import { send } from '$lib/ui/frame/send';
  import { nameOf, type Target } from './recording-words';

  interface Props {
    /** Address of the process that is chosen; '' for none. */
    address: string;
    /** Its service; '' for none. */
    service: string;
    /** The process that is looked for, where a link names one; 0 where its id is not known. */
    wanted: { service: string; pid: number } | null;
  }
  let { address = $bindable(), service = $bindable(), wanted }: Props = $props();
  let targets = $state.raw<Target[] | null>(null);
  let searching = $state(false);
  let refusal = $state('');

  async function look(at = ''): Promise<void> {
    searching = true;
    refusal = '';
    let answer: Target[] = [];
    try {
      answer = await send<Target[]>(
        'GET',
        `/api/recordings/targets${at ? `?address=${encodeURIComponent(at)}` : ''}`
      );
      if (at && answer.length === 0)
        refusal = `No Node.js process with an open inspector answers at ${at}. Start it with node --inspect, or send it SIGUSR1.`;
    } catch (cause) {
      refusal = (cause as Error).message;
    }
    searching = false;
    if (refusal) return;
    const known = at
      ? (targets ?? []).filter((one) => !answer.some((other) => other.address === one.address))
      : [];
    targets = [...known, ...answer];
    if (at || address === '') address = (preferred(targets, wanted) ?? answer[0])?.address ?? address;
  }
  $effect(() => void look());
  $effect(() => void (service = targets?.find((one) => one.address === address)?.service ?? ''));

  /** The process a link names: by its id, else the only one of its service. */
  function preferred(found: readonly Target[], process: Props['wanted']): Target | undefined {
    const ofService = found.filter(({ service }) => service === process?.service);
    return (
      ofService.find(({ pid }) => pid === process?.pid) ?? (ofService.length === 1 ? ofService[0] : undefined)
    );
  }
  const isMissing = $derived(wanted !== null && targets !== null && !preferred(targets, wanted));
</script>

<section class="border-b border-rule px-4 py-3" aria-label="Processes">
  <div class="mb-2 flex items-center gap-2">
    <h1 class="text-[13px]">Processes</h1>
    <button class="button" disabled={searching} onclick={() => void look()}
      >{searching ? 'Looking…' : 'Look again'}</button
    >
    <form
      class="ml-auto flex items-center gap-2"
      onsubmit={(event) => {
        event.preventDefault();
        void look(new FormData(event.currentTarget).get('address') as string);
      }}
    >
      <input
        class="w-48 field py-0.5 num"
        name="address"
        placeholder="127.0.0.1:9229"
        aria-label="Address of an inspector"
      />
      <button class="button">Add</button>
    </form>
  </div>
  {#if isMissing}<p class="mb-2 text-ink-2" role="status">
      No inspector of {wanted!.service}{wanted!.pid > 0 ? `, process ${wanted!.pid},` : ''} was found. Start it
      with
      <code class="num">node --inspect</code>, or send the running process SIGUSR1, and look again.
    </p>{/if}
  {#if refusal}<p class="mb-2 text-alarm" role="alert">{refusal}</p>{/if}
  {#if targets && targets.length > 0}
    <table class="w-full border-collapse">
      <thead
        ><tr class="border-b border-rule"
          ><th class="column"></th><th class="column">service</th><th class="column">host</th><th
            class="column">release</th
          ><th class="column text-right">pid</th><th class="column">address</th><th class="column"
            >what it runs</th
          ></tr
        ></thead
      >
      <tbody>
        {#each targets as target (target.address)}
          <tr
            class="border-b border-grid whitespace-nowrap hover:bg-pen-soft {target.address === address
              ? 'bg-pen-soft'
              : ''}"
          >
            <td class="px-2 py-1"
              ><input
                type="radio"
                name="target"
                value={target.address}
                bind:group={address}
                aria-label="Record {nameOf(target)}"
              /></td
            >
            <td class="px-2 font-[560]">{target.service || 'not known'}</td>
            <td class="px-2 text-ink-2">{target.host || '–'}</td>
            <td class="px-2 num text-ink-2">{target.release || '–'}</td>
            <td class="px-2 text-right num">{target.pid}</td>
            <td class="px-2 num text-ink-2">{target.address}</td>
            <td class="max-w-60 truncate px-2 text-ink-3" title={target.title}
              >{target.title.split('/').slice(-2).join('/')}{#if target.development}<b class="text-alarm">
                  development mode</b
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {:else if targets}
    <p class="text-ink-2">
      No process with an open inspector was found. Start one with <code class="num">node --inspect</code>, or
      name the ports in the setting TROMIX_INSPECT.
    </p>
  {:else}<p class="text-ink-3" role="status">Looking for processes…</p>{/if}
</section>
