<script lang="ts">
  import { plannedRequests } from '@tromix/core/load/schedule';
  import { readPlan } from '@tromix/core/load/plan';
  import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';
  import FromElsewhere from './FromElsewhere.svelte';
  import { emptyStep, planOf, stepForm, type PlanForm } from './plan-form';
  import RecordOnTheWay from './RecordOnTheWay.svelte';
  import StepFields from './StepFields.svelte';

  /** A plan needs four things; everything else is folded away. */
  interface Props {
    form: PlanForm;
    /** What is to be completed, where the steps come from elsewhere. */
    notes: string[];
    /** Why it was not started; '' for nothing. */
    refusal: string;
    starting: boolean;
    onstart: (record: { address: string; what: 'cpu' | 'heap' | 'threads' }[]) => void;
  }
  let { form = $bindable(), notes = $bindable(), refusal, starting, onstart }: Props = $props();
  let record = $state.raw<{ address: string; what: 'cpu' | 'heap' | 'threads' }[]>([]);
  /** Which of the folded parts are open. */
  let details = $state(false);
  $effect(() => {
    if (notes.length > 0 || form.steps.length > 1) details = true;
  });

  const read = $derived(readPlan(planOf(form)));
  /** What the plan comes to, in words. */
  const sum = $derived.by(() => {
    if (!read.ok) return '';
    const { plan } = read;
    const planned = plannedRequests(plan);
    const pace =
      form.model === 'rate'
        ? `${formatCount(plan.rate)} per second, answered or not`
        : plan.rampUpSeconds > 0 && plan.users > 1
          ? `a user joins every ${formatDuration((plan.rampUpSeconds / plan.users) * 1e9)}`
          : `${plural(plan.users, 'user')} at once`;
    const length = Number.isFinite(planned) ? plural(planned, 'request') : formatDuration(plan.seconds * 1e9);
    return `${length}, ${pace}.`;
  });
</script>

<form
  class="border-b border-rule px-4 py-3"
  aria-label="New load run"
  onsubmit={(event) => {
    event.preventDefault();
    onstart(record);
  }}
>
  <div class="flex flex-wrap items-end gap-x-4 gap-y-2">
    {#if form.steps.length === 1}
      <Labelled label="address" grows
        ><input
          class="min-w-0 field num"
          bind:value={form.steps[0].url}
          placeholder="http://127.0.0.1:3000/board"
          required
        /></Labelled
      >
    {:else}
      <span class="flex-1 pb-1 text-ink-2">{plural(form.steps.length, 'step')}, below</span>
    {/if}
    {#if form.model === 'users'}
      <NumberField label="users" bind:value={form.users} min={1} max={2000} required />
    {:else}
      <NumberField label="per second" bind:value={form.rate} min={0.01} step="any" required width="w-24" />
    {/if}
    <NumberField label="ramp-up, s" bind:value={form.rampUpSeconds} min={0} step="any" required />
    {#if form.until === 'loops'}
      <NumberField
        label={form.model === 'users' ? 'loops' : 'visits'}
        bind:value={form.loops}
        min={1}
        required
      />
    {:else}
      <NumberField label="length, s" bind:value={form.seconds} min={0.1} step="any" required />
    {/if}
    <button class="button button-solid" disabled={starting}>{starting ? 'Starting…' : 'Start the run'}</button
    >
  </div>
  {#if refusal}<p class="mt-2 text-alarm" role="alert">{refusal}</p>{/if}
  {#if notes.length > 0}<ul class="mt-2 text-ink-2">
      {#each notes as note, i (i)}<li>{note}</li>{/each}
    </ul>{/if}
  <p class="mt-1 text-[11px] text-ink-3">
    {sum} Sent to this machine’s loopback range, and to what the setting TROMIX_LOAD_TARGETS names.
  </p>

  <details class="mt-2" bind:open={details}>
    <summary class="cursor-pointer text-ink-2">Method, headers, body, several steps, pauses, arrivals</summary
    >
    <div class="mt-2 flex flex-wrap items-end gap-x-4 gap-y-2">
      <Labelled label="name"><input class="w-44 field" bind:value={form.name} maxlength="200" /></Labelled>
      <Labelled label="load"
        ><select class="field" bind:value={form.model}
          ><option value="users">users, who wait for answers</option><option value="rate"
            >arrivals at a rate, whatever is answered</option
          ></select
        ></Labelled
      >
      <Labelled label="ends after"
        ><select class="field" bind:value={form.until}
          ><option value="loops">{form.model === 'users' ? 'loops' : 'so many visits'}</option><option
            value="seconds">a length</option
          ></select
        ></Labelled
      >
      {#if form.model === 'users'}<NumberField
          label="pause between loops, s"
          bind:value={form.pauseSeconds}
          min={0}
          step="any"
        />{/if}
      <NumberField label="time limit, s" bind:value={form.timeoutSeconds} min={0.01} step="any" />
      <NumberField
        label="give up after failures in a row"
        bind:value={form.giveUpAfter}
        min={0}
        width="w-24"
      />
      {#if form.steps.length > 1}<Labelled label="each time"
          ><select class="field" bind:value={form.order}
            ><option value="all">all steps in order</option><option value="one">one step, by weight</option
            ></select
          ></Labelled
        >{/if}
      <label class="flex items-center gap-1.5 pb-1 text-ink-2"
        ><input type="checkbox" bind:checked={form.followRedirects} />follow redirects</label
      >
    </div>
    <p class="mt-2 mb-1 text-[11px] text-ink-3">
      A number such as <code class="num">&lbrace;1..60&rbrace;</code> in an address or a body is drawn anew each
      time, the same in every run.
    </p>
    {#each form.steps as step, i (step)}
      <StepFields
        bind:step={form.steps[i]}
        number={i + 1}
        several={form.steps.length > 1}
        weighted={form.order === 'one'}
        onremove={() => form.steps.splice(i, 1)}
      />
    {/each}
    <p class="border-t border-grid py-2">
      <button type="button" class="button" onclick={() => form.steps.push(emptyStep())}>Add a step</button>
    </p>
    <div class="border-t border-grid py-2">
      <FromElsewhere
        onsteps={(steps, said) => {
          form.steps = steps.map(stepForm);
          notes = said;
        }}
      />
    </div>
    <div class="border-t border-grid pt-2">
      <h3 class="mb-1 heading">Record on the way</h3>
      {#if details}<RecordOnTheWay bind:chosen={record} />{/if}
    </div>
  </details>
</form>
