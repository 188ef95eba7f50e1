<script lang="ts">
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';
  import type { StepForm } from './plan-form';

  /** One step of a plan with everything that may be said of it. */
  interface Props {
    step: StepForm;
    number: number;
    /** Among others: only then it has a weight, and can be removed. */
    several: boolean;
    /** One of the steps is drawn each time. */
    weighted: boolean;
    onremove: () => void;
  }
  let { step = $bindable(), number, several, weighted, onremove }: Props = $props();
  const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS'];
</script>

<fieldset class="border-t border-grid py-2">
  <legend class="sr-only">Step {number}</legend>
  <div class="flex flex-wrap items-end gap-x-3 gap-y-2">
    {#if several}<span class="pb-1.5 num text-ink-3">{number}</span>{/if}
    <Labelled label="method"
      ><select class="field" bind:value={step.method}
        >{#each METHODS as method (method)}<option>{method}</option
          >{/each}{#if !METHODS.includes(step.method)}<option>{step.method}</option>{/if}</select
      ></Labelled
    >
    {#if several}<Labelled label="address of step {number}" grows
        ><input
          class="min-w-0 field num"
          bind:value={step.url}
          placeholder="http://127.0.0.1:3000/board"
        /></Labelled
      >{/if}
    <Labelled label="expected status"
      ><input class="w-24 field num" bind:value={step.expect} placeholder="below 400" /></Labelled
    >
    <NumberField label="sent at once, times" bind:value={step.together} min={1} max={100} />
    {#if several && weighted}<NumberField label="weight" bind:value={step.weight} min={1} max={1000} />{/if}
    {#if several}<button type="button" class="button" onclick={onremove}>Remove step {number}</button>{/if}
  </div>
  <div class="mt-2 grid grid-cols-2 gap-3">
    <Labelled label="headers, one a line"
      ><textarea
        class="field num"
        rows="3"
        bind:value={step.headers}
        placeholder="content-type: application/json"
        spellcheck="false"></textarea></Labelled
    >
    <Labelled label="body"
      ><textarea class="field num" rows="3" bind:value={step.body} spellcheck="false"></textarea></Labelled
    >
  </div>
</fieldset>
