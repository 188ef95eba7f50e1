<script lang="ts">
  import { goto } from '$app/navigation';

  /** A choice of one among few, each a link, so that it is in the URL. */
  interface Props {
    label: string;
    choices: { key: string; name: string; href: string }[];
    value: string;
    /** There are so many that they are a list to choose from. */
    folded?: boolean;
  }
  let { label, choices, value, folded = false }: Props = $props();
  const go = (key: string): void =>
    void goto(choices.find((one) => one.key === key)!.href, { keepFocus: true });
</script>

{#if folded}
  <label class="flex items-baseline gap-x-1.5"
    >{label}
    <select class="field py-0" {value} onchange={(event) => go(event.currentTarget.value)}>
      {#each choices as { key, name } (key)}<option value={key}>{name}</option>{/each}
    </select></label
  >
{:else}
  <span class="flex flex-wrap items-baseline gap-x-1.5">
    {label}
    {#each choices as { key, name, href }, i (key)}
      {#if i > 0}<span aria-hidden="true">·</span>{/if}
      <a
        {href}
        aria-current={key === value ? 'true' : undefined}
        class="hover:text-ink aria-[current]:border-b-[1.5px] aria-[current]:border-dotted aria-[current]:border-steer aria-[current]:font-semibold aria-[current]:text-ink"
        >{name}</a
      >
    {/each}
  </span>
{/if}
