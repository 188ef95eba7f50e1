<script lang="ts" generics="Row">
  import ComparisonField from '$lib/ui/kit/ComparisonField.svelte';
  import { Popover } from 'bits-ui';
  import FilterIcon from '@lucide/svelte/icons/list-filter';
  import { type AttributeCondition, type Comparison } from '$lib/attribute-condition';
  import type { Column } from './columns';

  /** A form for one more condition on the texts of a table. */
  interface Props {
    /** Columns of words. */
    columns: Column<Row>[];
    onadd: (condition: AttributeCondition) => void;
    /** The table. */
    of: string;
  }
  let { columns, onadd, of }: Props = $props();

  let open = $state(false);
  let name = $state('');
  let comparison = $state<Comparison>('~=');
  let value = $state('');
  const chosen = $derived(columns.some(({ key }) => key === name) ? name : columns[0]?.key);

  function add(event: SubmitEvent): void {
    event.preventDefault();
    const given = value.trim();
    if (!given || !chosen) return;
    onadd({ name: chosen, comparison, value: given });
    open = false;
    value = '';
  }
</script>

<Popover.Root bind:open>
  <Popover.Trigger class="button border-rule text-ink-2" aria-label="Filter {of}"
    ><FilterIcon size={12} /> Filter</Popover.Trigger
  >
  <Popover.Portal>
    <Popover.Content class="pop w-72 p-3" align="end" sideOffset={4}>
      <form class="grid gap-2" onsubmit={add}>
        <label class="grid grid-cols-[80px_1fr] items-center"
          >Column
          <select class="field" value={chosen} onchange={(event) => (name = event.currentTarget.value)}>
            {#each columns as { key, title } (key)}<option value={key}>{title}</option>{/each}
          </select></label
        >
        <ComparisonField bind:value={comparison} />
        <label class="grid grid-cols-[80px_1fr] items-center"
          >Text
          <input class="min-w-0 field num" bind:value /></label
        >
        <button class="button justify-self-start button-solid" type="submit">Add</button>
      </form>
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
