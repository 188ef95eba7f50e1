<script lang="ts">
  import { isDump } from '$lib/evidence/recorded-kind';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';
  import ScrollRegion from '$lib/ui/kit/ScrollRegion.svelte';
  import { words } from '@tromix/core/text/words';
  import { Refusal, send, sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import { page } from '$app/state';
  import { plural } from '@tromix/core/text/format';
  import { toast } from 'svelte-sonner';
  import type { Recording } from '$lib/server/queries/recordings';
  import Confirm from '$lib/ui/kit/Confirm.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import CostNotes from '$lib/ui/recorder/CostNotes.svelte';
  import PageRecorder from '$lib/ui/recorder/PageRecorder.svelte';
  import ProcessTable from '$lib/ui/recorder/ProcessTable.svelte';
  import { planWords } from '$lib/ui/recorder/recording-words';
  import RecordingList from '$lib/ui/recorder/RecordingList.svelte';
  import { viewLink } from '$lib/ui/shell/links';
  import Page from '$lib/ui/shell/Page.svelte';
  import type { PageData } from './$types';

  type Kind = Recording['kind'];

  let { data }: { data: PageData } = $props();

  let address = $state('');
  /** A request may lead here to record the process that served it. */
  const wanted = $derived.by(() => {
    const service = page.url.searchParams.get('process');
    return service ? { service, pid: Number(page.url.searchParams.get('pid')) || 0 } : null;
  });
  let kind = $state<Kind>('cpu');
  let seconds = $state(30);
  let interval = $state<Record<Kind, number>>({ cpu: 1000, allocation: 32_768, heap: 1000, threads: 1000 });
  let calls = $state<'no' | 'beside' | 'alone'>('no');
  let repeat = $state<'once' | 'time' | 'watch' | 'always'>('once');
  /** Recording all the time: a slice of every minute, within a budget in percent of a core. */
  let slices = $state({
    seconds: 10,
    interval: 10_000,
    everyMinutes: 1,
    budget: 1,
    inTurn: false,
    /** Of the chosen process. */
    service: ''
  });
  /** Newest slices whose samples are kept in full; of the others their sums are. */
  const KEPT_SLICES = 20;
  let everyMinutes = $state(5);
  let keep = $state(48);
  let watch = $state('');
  let starting = $state(false);
  let question = $state('');
  let asked: object = {};

  const active = $derived(data.recordings.filter(({ state }) => state === 'recording' || state === 'saving'));
  const watchNames = $derived(Object.entries(data.watches));
  const busyAt = $derived(new Set(active.map((recording) => recording.address)));

  /** A heap dump that stops its process for long, or may not fit, is asked for twice. */
  async function start(wanted: object): Promise<void> {
    starting = true;
    try {
      await send('POST', '/api/recordings', wanted);
    } catch (cause) {
      const asks = cause instanceof Refusal && (cause.answer as { ask?: boolean } | null)?.ask === true;
      if (asks) [question, asked] = [cause.message, wanted];
      else toast.error((cause as Error).message);
    }
    starting = false;
    await invalidate('tromix:recordings');
  }

  async function change(method: 'POST' | 'DELETE', path: string, body: object, done = ''): Promise<void> {
    await sendAndSay(method, path, body, done);
    await invalidate('tromix:recordings');
  }

  async function begin(): Promise<void> {
    const order = { address, kind, seconds, interval: interval[kind], calls: kind === 'cpu' ? calls : 'no' };
    if (repeat === 'once') await start(order);
    else if (repeat === 'always') {
      const when = {
        by: 'always',
        everyMinutes: slices.everyMinutes,
        budget: slices.budget / 100,
        inTurn: slices.inTurn ? slices.service : ''
      };
      const slice = { address, kind: 'cpu', seconds: slices.seconds, interval: slices.interval };
      await change('POST', '/api/recordings/plans', { ...slice, keep: KEPT_SLICES, when }, 'Plan saved.');
    } else {
      const when = repeat === 'time' ? { by: 'time', everyMinutes } : { by: 'watch', watch };
      await change('POST', '/api/recordings/plans', { ...order, keep, when }, 'Schedule saved.');
    }
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
        text={words`${[plural(active.length, 'recording')]} in progress. Each ends by itself, even if you close this page.`}
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
    <p class="mt-2 text-ink-2">
      What one function is given and gives back is seen <a
        class="underline"
        href={viewLink('/recorder/observe')}>from inside</a
      >, call by call.
    </p>
    <CostNotes {kind} {repeat} {calls} {seconds} {interval} keptSlices={KEPT_SLICES} />
  {/snippet}

  <ScrollRegion label="Recorder" class="bg-sheet">
    <ProcessTable bind:address bind:service={slices.service} {wanted} />

    <form
      class="flex flex-wrap items-end gap-x-4 gap-y-2 border-b border-rule px-4 py-3"
      aria-label="New recording"
      onsubmit={(event) => {
        event.preventDefault();
        void begin();
      }}
    >
      <Labelled label="record"
        ><select class="field" bind:value={kind}
          ><option value="cpu">CPU samples</option><option value="allocation">allocations</option><option
            value="heap">a heap dump</option
          ><option value="threads">a thread dump</option></select
        ></Labelled
      >
      {#if repeat === 'always'}
        <NumberField label="for, seconds" bind:value={slices.seconds} min={1} max={60} />
        <NumberField
          label="a sample every, µs"
          bind:value={slices.interval}
          min={1000}
          step={1000}
          width="w-24"
        />
      {:else if !isDump(kind)}<NumberField label="for, seconds" bind:value={seconds} min={1} max={600} />{/if}
      {#if repeat === 'always'}
        <!-- Its samples are chosen above. -->
      {:else if kind === 'cpu'}
        <NumberField label="a sample every, µs" bind:value={interval.cpu} min={50} step={50} width="w-24" />
        <Labelled label="calls"
          ><select class="field" bind:value={calls}
            ><option value="no">not counted</option><option value="beside">count every call</option><option
              value="alone">count, without samples</option
            ></select
          ></Labelled
        >
      {:else if kind === 'allocation'}
        <NumberField
          label="a sample every, bytes"
          bind:value={interval.allocation}
          min={1024}
          step={1024}
          width="w-28"
        />
      {/if}
      <Labelled label="when"
        ><select class="field" bind:value={repeat}
          ><option value="once">now, once</option><option value="time">again and again</option><option
            value="watch">while a watch is on</option
          ><option value="always" disabled={kind !== 'cpu'}>all the time, in slices</option></select
        ></Labelled
      >
      {#if repeat === 'time'}
        <NumberField label="every, minutes" bind:value={everyMinutes} min={1} max={1440} />
      {:else if repeat === 'watch'}
        {#if watchNames.length > 0}
          <Labelled label="watch"
            ><select class="w-72 field" bind:value={watch} required
              >{#each watchNames as [id, name] (id)}<option value={id}>{name}</option>{/each}</select
            ></Labelled
          >
        {:else}<span class="text-ink-2"
            >There is no watch yet: <a class="underline" href="/watches">make one</a>.</span
          >{/if}
      {/if}
      {#if repeat === 'always'}
        <NumberField label="of every, minutes" bind:value={slices.everyMinutes} min={1} max={60} />
        <NumberField label="at most, % of a core" bind:value={slices.budget} min={0.01} max={50} step="any" />
        {#if slices.service}<label class="flex items-center gap-1.5 pb-1"
            ><input type="checkbox" bind:checked={slices.inTurn} /> every process of {slices.service}, one at
            a time</label
          >{/if}
      {:else if repeat !== 'once'}
        <NumberField label="keep" bind:value={keep} min={1} max={500} />
      {/if}
      <button
        class="button button-solid"
        disabled={address === '' ||
          starting ||
          (repeat === 'once' && busyAt.has(address)) ||
          (repeat === 'watch' && watch === '')}
        >{starting ? 'Starting…' : repeat === 'once' ? 'Start recording' : 'Make the plan'}</button
      >
      {#if repeat === 'once' && busyAt.has(address)}<span class="text-[11px] text-ink-2"
          >This process is being recorded.</span
        >{/if}
    </form>

    <PageRecorder />

    {#if data.plans.length > 0}
      <section class="border-b border-rule px-4 py-3" aria-label="Plans">
        <h2 class="mb-1 heading">Plans</h2>
        {#each data.plans as stored (stored.id)}
          <p class="flex items-center gap-2 py-0.5">
            <span>{planWords(stored, data.watches)}</span>
            <button
              class="button px-1.5 py-0"
              onclick={() => void change('DELETE', `/api/recordings/plans/${stored.id}`, {})}>End</button
            >
          </p>
        {/each}
      </section>
    {/if}

    <RecordingList
      recordings={data.recordings}
      onend={(id, how) => void change('POST', `/api/recordings/${id}`, { how })}
    />
  </ScrollRegion>
</Page>
