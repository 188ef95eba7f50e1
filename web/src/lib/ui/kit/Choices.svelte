<script lang="ts">
  /** A choice of one among few, each a link, so that it is in the URL. */
  let {
    label,
    choices,
    value
  }: { label: string; choices: { key: string; name: string; href: string }[]; value: string } = $props();
</script>

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
