<script lang="ts">
  import { COMPARISONS, type Comparison } from '$lib/attribute-condition';

  /** How a condition compares. */
  let { value = $bindable() }: { value: Comparison } = $props();
</script>

<label class="grid grid-cols-[80px_1fr] items-center"
  >Comparison
  <select class="field" bind:value>
    {#each Object.entries(COMPARISONS) as [sign, words] (sign)}<option value={sign}>{words}</option>{/each}
  </select></label
>
