<script lang="ts">
  import { SEVERITIES } from '@tromix/core/watch/watch';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';
  import type { WatchDraft } from './draft';

  /** What a watch is called, whom it concerns, and what is done when it comes on. @param called what it is called without a name */
  let { draft = $bindable(), called }: { draft: WatchDraft; called: string } = $props();
</script>

<div class="flex flex-wrap items-end gap-x-3 gap-y-2 border-t border-rule pt-2.5">
  <Labelled label="name" grows
    ><input
      class="w-full min-w-40 field"
      maxlength="200"
      placeholder={called}
      bind:value={draft.name}
    /></Labelled
  >
  <Labelled label="severity"
    ><select class="field" bind:value={draft.severity}
      >{#each SEVERITIES as severity (severity)}<option>{severity}</option>{/each}</select
    ></Labelled
  >
  <Labelled label="owner"><input class="w-36 field" maxlength="200" bind:value={draft.owner} /></Labelled>
</div>
<div class="flex flex-wrap items-end gap-x-4 gap-y-2">
  <label class="flex items-center gap-1.5 pb-1"
    ><input type="checkbox" bind:checked={draft.opensCase} />open a case when it comes on</label
  >
  <label class="flex items-center gap-1.5 pb-1"
    ><input type="checkbox" bind:checked={draft.tellsNoData} />tell when there is no data</label
  >
  <Labelled label="record"
    ><select class="field" bind:value={draft.record}
      ><option value="nothing">nothing</option><option value="cpu">CPU samples</option><option
        value="allocation">allocations</option
      ><option value="threads">a thread dump</option><option value="heap">a heap dump</option></select
    ></Labelled
  >
  {#if draft.record !== 'nothing'}
    {#if draft.record === 'cpu' || draft.record === 'allocation'}
      <NumberField label="for, seconds" bind:value={draft.seconds} min={1} max={600} />
    {/if}
    <Labelled label="of the process at"
      ><input class="w-40 field" placeholder="that of the service" bind:value={draft.address} /></Labelled
    >
  {/if}
</div>
