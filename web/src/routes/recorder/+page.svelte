<script lang="ts">
  import { invalidate } from '$app/navigation';
  import { formatBytes, formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
  import { toast } from 'svelte-sonner';
  import type { Recording, StoredPlan } from '$lib/server/queries/recordings';
  import Confirm from '$lib/ui/kit/Confirm.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime } from '$lib/ui/kit/time';
  import { NO_PICKS } from '$lib/scope';
  import { evidenceLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import { describeKeys } from '$lib/ui/shell/shell-state.svelte';
  import type { PageData } from './$types';

  interface Target {
    address: string;
    title: string;
    pid: number;
    service: string;
    host: string;
    release: string;
    development: boolean;
  }
  type Kind = Recording['kind'];

  let { data }: { data: PageData } = $props();
  describeKeys([]);

  let targets = $state.raw<Target[] | null>(null);
  let searching = $state(false);
  let refusal = $state('');
  let address = $state('');
  let kind = $state<Kind>('cpu');
  let seconds = $state(30);
  let interval = $state<Record<Kind, number>>({ cpu: 1000, allocation: 32_768, heap: 1000 });
  let repeat = $state<'once' | 'time' | 'p95'>('once');
  let everyMinutes = $state(5);
  let keep = $state(48);
  let slow = $state({ service: '', endpoint: '', overMs: 500 });
  let now = $state(Date.now());
  let starting = $state(false);
  let question = $state('');
  let asked: object = {};

  /** V8 writes a sample as its node's number and a time delta. */
  const SAMPLE_BYTES = 10;
  const samples = $derived(Math.round((seconds * 1e6) / Math.max(1, interval.cpu)));
  const active = $derived(data.recordings.filter(({ state }) => state === 'recording' || state === 'saving'));
  const busyAt = $derived(new Set(active.map((recording) => recording.address)));

  async function look(at = ''): Promise<void> {
    searching = true;
    refusal = '';
    const response = await fetch(`/api/recordings/targets${at ? `?address=${encodeURIComponent(at)}` : ''}`);
    const answer = (await response.json()) as Target[] & { message: string };
    searching = false;
    if (!response.ok) {
      refusal = answer.message;
      return;
    }
    if (at && answer.length === 0) {
      refusal = `No Node.js process with an open inspector answers at ${at}. Start it with node --inspect, or send it SIGUSR1.`;
      return;
    }
    const known = at
      ? (targets ?? []).filter((one) => !answer.some((other) => other.address === one.address))
      : [];
    targets = [...known, ...answer];
    if (at || address === '') address = answer[0]?.address ?? address;
  }
  $effect(() => void look());
  $effect(() => {
    if (active.length === 0) return;
    const timer = setInterval(() => (now = Date.now()), 250);
    return () => clearInterval(timer);
  });

  async function send(path: string, body: object, method = 'POST'): Promise<boolean> {
    const response = await fetch(path, {
      method,
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body)
    });
    if (!response.ok) toast.error(((await response.json()) as { message: string }).message);
    await invalidate('tromix:recordings');
    return response.ok;
  }

  /** A heap dump that stops its process for long, or may not fit, is asked for twice. */
  async function start(wanted: object): Promise<void> {
    starting = true;
    const response = await fetch('/api/recordings', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(wanted)
    });
    starting = false;
    if (!response.ok) {
      const { message, ask } = (await response.json()) as { message: string; ask?: boolean };
      if (ask) [question, asked] = [message, wanted];
      else toast.error(message);
    }
    await invalidate('tromix:recordings');
  }

  async function begin(): Promise<void> {
    const order = { address, kind, seconds, interval: interval[kind] };
    if (repeat === 'once') await start(order);
    else {
      const when = repeat === 'time' ? { by: 'time', everyMinutes } : { by: 'p95', ...slow };
      if (await send('/api/recordings/plans', { ...order, keep, when })) toast.success('The plan stands.');
    }
  }

  const progress = (recording: Recording): number =>
    Math.min(1, Math.max(0, (now * 1000 - recording.startedAtUs) / ((recording.seconds + 1) * 1e6)));
  const nameOf = (recording: Pick<Recording, 'service' | 'pid'>): string =>
    `${recording.service || 'a process'}${recording.pid ? ` ${recording.pid}` : ''}`;
  const KIND_WORDS: Record<Kind, string> = {
    cpu: 'CPU samples',
    allocation: 'allocations',
    heap: 'heap dump'
  };
  /** What was sampled, and what it cost; a dump says how long it stopped the process. */
  const costWords = (recording: Recording): string =>
    recording.kind === 'heap'
      ? ''
      : [samplingWords(recording), 'Only the main thread was sampled.', usedWords(recording)]
          .join(' ')
          .trim();
  function samplingWords({ costLow, costHigh }: Recording): string {
    if (costLow === null || costHigh === null) return 'What it cost could not be measured.';
    if (costHigh <= 0) return 'The same work took no longer while it was sampled.';
    return costLow <= 0
      ? `The same work took at most ${formatShare(costHigh)} longer while it was sampled.`
      : `The same work took ${formatShare(costLow)} to ${formatShare(costHigh)} longer while it was sampled.`;
  }
  function usedWords({ cpuBefore, cpuDuring }: Recording): string {
    if (cpuBefore === null || cpuDuring === null) return '';
    return `All its threads used ${formatShare(cpuBefore)} of a core in the second before, ${formatShare(cpuDuring)} meanwhile.`;
  }
  function planWords({ plan }: StoredPlan): string {
    const what = `${KIND_WORDS[plan.kind]} of ${plan.address}${plan.kind === 'heap' ? '' : ` for ${formatDuration(plan.seconds * 1e9)}`}`;
    return plan.when.by === 'time'
      ? `${what}, every ${formatDuration(plan.when.everyMinutes * 60e9)}, keep ${plan.keep}`
      : `${what}, when p95 of ${plan.when.service} ${plan.when.endpoint} is over ${formatDuration(plan.when.overMs * 1e6)}, keep ${plan.keep}`;
  }
</script>

<Confirm
  bind:question
  title="Take this heap dump?"
  action="Take it"
  onconfirm={() => {
    question = '';
    void start({ ...asked, sure: true });
  }}
/>

<Page>
  {#snippet scope()}<span
      >Looking at <b class="font-semibold text-ink">running Node.js processes</b> whose inspector answers</span
    >{/snippet}
  {#snippet reading()}
    {#if active.length > 0}
      <Sentence
        text="*{plural(
          active.length,
          'recording'
        )}* under way. Each ends by itself, also when this page is closed."
      />
    {:else}
      <p>
        Nothing is being recorded. A recording takes ten minutes at most and ends by itself, also when this
        page is closed, the process ends or this server stops.
      </p>
    {/if}
    <p class="mt-2 text-ink-2">
      Record one host for a minute or less, while it is slow. A process opens its inspector with <code
        class="num">node --inspect</code
      >, or when it is sent <code class="num">SIGUSR1</code>.
    </p>
    <h3 class="mt-3 mb-1 heading">What it costs</h3>
    <p class="text-ink-2">
      {#if kind === 'cpu'}
        At {formatDuration(interval.cpu * 1000)} this is about {formatCount(samples)} samples and {formatBytes(
          samples * SAMPLE_BYTES
        )}. Each sample stops the program for a moment: ten times finer is ten times the file and ten times
        the stops. The same piece of work is timed without and with sampling first: what it costs is told
        below.
      {:else if kind === 'heap'}
        A heap dump <b class="font-[620]">stops the process</b> while it is written: 5 to 12 s and 0.3 to 1.5 GB
        of memory for a million objects. Where that may be 10 s or more, or more than is free, its objects are counted
        and you are asked again. How long it took is told below.
      {:else}
        About one object in {formatBytes(interval.allocation)} allocated is noted with its stack; also those freed
        again.
      {/if}
    </p>
  {/snippet}

  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="min-h-0 flex-1 overflow-auto bg-sheet" tabindex="0" role="region" aria-label="Recorder">
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
          No process with an open inspector was found. Start one with <code class="num">node --inspect</code>,
          or name the ports in the setting TROMIX_INSPECT.
        </p>
      {:else}<p class="text-ink-3" role="status">Looking for processes…</p>{/if}
    </section>

    <form
      class="flex flex-wrap items-end gap-x-4 gap-y-2 border-b border-rule px-4 py-3"
      aria-label="New recording"
      onsubmit={(event) => {
        event.preventDefault();
        void begin();
      }}
    >
      <label class="flex flex-col text-[11px] text-ink-2"
        >record <select class="field" bind:value={kind}
          ><option value="cpu">CPU samples</option><option value="allocation">allocations</option><option
            value="heap">a heap dump</option
          ></select
        ></label
      >
      {#if kind !== 'heap'}<label class="flex flex-col text-[11px] text-ink-2"
          >for, seconds <input
            class="w-20 field num"
            type="number"
            min="1"
            max="600"
            bind:value={seconds}
          /></label
        >{/if}
      {#if kind === 'cpu'}
        <label class="flex flex-col text-[11px] text-ink-2"
          >a sample every, µs <input
            class="w-24 field num"
            type="number"
            min="50"
            step="50"
            bind:value={interval.cpu}
          /></label
        >
      {:else if kind === 'allocation'}
        <label class="flex flex-col text-[11px] text-ink-2"
          >a sample every, bytes <input
            class="w-28 field num"
            type="number"
            min="1024"
            step="1024"
            bind:value={interval.allocation}
          /></label
        >
      {/if}
      <label class="flex flex-col text-[11px] text-ink-2"
        >when <select class="field" bind:value={repeat}
          ><option value="once">now, once</option><option value="time">again and again</option><option
            value="p95">when an endpoint is slow</option
          ></select
        ></label
      >
      {#if repeat === 'time'}
        <label class="flex flex-col text-[11px] text-ink-2"
          >every, minutes <input
            class="w-20 field num"
            type="number"
            min="1"
            max="1440"
            bind:value={everyMinutes}
          /></label
        >
      {:else if repeat === 'p95'}
        <label class="flex flex-col text-[11px] text-ink-2"
          >service <select class="field" bind:value={slow.service}
            >{#each data.names.services as service (service)}<option>{service}</option>{/each}</select
          ></label
        >
        <label class="flex flex-col text-[11px] text-ink-2"
          >endpoint <input
            class="w-44 field"
            placeholder="GET /tides/window"
            bind:value={slow.endpoint}
          /></label
        >
        <label class="flex flex-col text-[11px] text-ink-2"
          >p95 over, ms <input class="w-24 field num" type="number" min="1" bind:value={slow.overMs} /></label
        >
      {/if}
      {#if repeat !== 'once'}
        <label class="flex flex-col text-[11px] text-ink-2"
          >keep <input class="w-20 field num" type="number" min="1" max="500" bind:value={keep} /></label
        >
      {/if}
      <button
        class="button button-solid"
        disabled={address === '' || starting || (repeat === 'once' && busyAt.has(address))}
        >{starting ? 'Starting…' : repeat === 'once' ? 'Start recording' : 'Make the plan'}</button
      >
      {#if repeat === 'once' && busyAt.has(address)}<span class="text-[11px] text-ink-2"
          >This process is being recorded.</span
        >{/if}
    </form>

    {#if data.plans.length > 0}
      <section class="border-b border-rule px-4 py-3" aria-label="Plans">
        <h2 class="mb-1 heading">Plans</h2>
        {#each data.plans as stored (stored.id)}
          <p class="flex items-center gap-2 py-0.5">
            <span>{planWords(stored)}</span>
            <button
              class="button px-1.5 py-0"
              onclick={() => void send(`/api/recordings/plans/${stored.id}`, {}, 'DELETE')}>End</button
            >
          </p>
        {/each}
      </section>
    {/if}

    <section class="px-4 py-3" aria-label="Recordings">
      <h2 class="mb-1 heading">Recordings</h2>
      {#if data.recordings.length === 0}<p class="text-ink-3">None yet.</p>{/if}
      <table class="w-full border-collapse">
        <tbody>
          {#each data.recordings as recording (recording.id)}
            <tr class="border-b border-grid whitespace-nowrap">
              <td class="px-2 py-1.5 num text-ink-2">{dateTime(recording.startedAtUs / 1000)}</td>
              <td class="px-2 font-[560]">{nameOf(recording)}</td>
              <td class="px-2 text-ink-2"
                >{KIND_WORDS[recording.kind]}{recording.kind === 'heap'
                  ? ''
                  : `, ${formatDuration(recording.seconds * 1e9)}`}</td
              >
              <td class="w-full px-2">
                {#if recording.state === 'recording'}
                  <span class="flex items-center gap-2">
                    <span
                      class="inline-block h-2 w-40 overflow-hidden rounded-[2px] border border-rule bg-paper"
                      role="progressbar"
                      aria-label="Recorded"
                      aria-valuemin="0"
                      aria-valuemax="100"
                      aria-valuenow={Math.round(progress(recording) * 100)}
                      ><i class="block h-full bg-pen" style:width="{progress(recording) * 100}%"></i></span
                    >
                    {#if recording.kind !== 'heap'}<button
                        class="button px-1.5 py-0"
                        onclick={() => void send(`/api/recordings/${recording.id}`, { how: 'stop' })}
                        >Stop and keep</button
                      >{/if}
                    <button
                      class="button px-1.5 py-0"
                      onclick={() => void send(`/api/recordings/${recording.id}`, { how: 'cancel' })}
                      >Cancel</button
                    >
                  </span>
                {:else if recording.state === 'saving'}<span role="status">Reading the samples…</span>
                {:else if recording.state === 'saved'}
                  <span class="flex items-center gap-2"
                    ><a
                      class="button px-1.5 py-0"
                      href={evidenceLink(
                        { kind: recording.kind === 'heap' ? 'heap' : 'profile', id: recording.evidenceId },
                        NO_PICKS
                      )}>Open the {recording.kind === 'heap' ? 'dump' : 'profile'}</a
                    >
                    <span class="text-[11px] whitespace-normal text-ink-2">{costWords(recording)}</span></span
                  >
                {:else if recording.state === 'cancelled'}<span class="text-ink-3">cancelled</span>
                {:else}<span class="whitespace-normal text-alarm">{recording.message}</span>{/if}
                {#if recording.message && recording.state !== 'failed' && recording.state !== 'cancelled'}<span
                    class="text-[11px] whitespace-normal text-ink-2">{recording.message}</span
                  >{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </section>
  </div>
</Page>
