<script lang="ts">
  import CheckIcon from '@lucide/svelte/icons/check';
  import { DropdownMenu } from 'bits-ui';

  interface Props {
    columns: { key: string; name: string }[];
    shown: readonly string[];
    ontoggle: (key: string) => void;
    /** What they are columns of, where a page has several tables. */
    of?: string;
  }
  let { columns, shown, ontoggle, of = '' }: Props = $props();
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="button border-rule text-ink-2" aria-label={of ? `Columns of ${of}` : undefined}
    >Columns</DropdownMenu.Trigger
  >
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="pop max-h-[60vh] min-w-48 overflow-y-auto py-1" align="end" sideOffset={4}>
      {#each columns as { key, name } (key)}
        <DropdownMenu.CheckboxItem
          checked={shown.includes(key)}
          closeOnSelect={false}
          onCheckedChange={() => ontoggle(key)}
          class="flex items-center gap-2 py-1 pr-4 pl-2 text-ink data-[highlighted]:bg-steer-soft"
        >
          {#snippet children({ checked })}
            <span class="w-3.5"
              >{#if checked}<CheckIcon size={13} />{/if}</span
            >
            {name}
          {/snippet}
        </DropdownMenu.CheckboxItem>
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
