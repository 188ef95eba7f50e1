<script lang="ts">
  /** What is known of one thing: a name, its value, and what to say beside it. */
  interface Props {
    facts: readonly (readonly [name: string, value: string, beside?: string])[];
  }
  let { facts }: Props = $props();
</script>

<table class="w-full num">
  <tbody>
    {#each facts as [name, value, beside] (name)}
      <tr class="border-b border-grid"
        ><th scope="row" class="py-0.5 pr-2 text-left font-normal text-ink-2">{name}</th><td
          class="text-right">{value}</td
        >{#if beside !== undefined}<td class="text-right text-ink-2">{beside}</td>{/if}</tr
      >
    {/each}
  </tbody>
</table>
