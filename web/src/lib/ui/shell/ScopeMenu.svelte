<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import CheckIcon from '@lucide/svelte/icons/check';
  import { formatCount } from '@tromix/core/text/format';
  import type { ScopeChoice } from './scope-parts';

  let { choice, onchoose }: { choice: ScopeChoice; onchoose: (value: string) => void } = $props();
  let filter = $state('');
  const FILTER_FROM = 12;
  const matching = $derived(
    choice.options.filter(({ label, detail }) =>
      `${label} ${detail ?? ''}`.toLowerCase().includes(filter.toLowerCase())
    )
  );
</script>

<DropdownMenu.Root onOpenChange={() => (filter = '')}>
  <DropdownMenu.Trigger
    class="truncate border-b-[1.5px] border-dotted border-steer py-px font-semibold text-ink hover:bg-steer-soft data-[state=open]:bg-steer-soft"
    aria-label="{choice.about}: {choice.shown}"
  >
    {choice.shown}
  </DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="pop max-h-[60vh] min-w-48 overflow-y-auto py-1" align="start" sideOffset={4}>
      {#if choice.options.length > FILTER_FROM}
        <input
          class="mx-2 my-1 block w-[calc(100%-16px)] field"
          placeholder="Narrow the list"
          aria-label="Narrow the list"
          bind:value={filter}
          onkeydown={(event) =>
            event.key !== 'ArrowDown' && event.key !== 'Escape' && event.stopPropagation()}
        />
      {/if}
      <DropdownMenu.RadioGroup value={choice.value} onValueChange={onchoose}>
        {#each matching as { label, detail, value } (value)}
          <DropdownMenu.RadioItem
            {value}
            class="flex items-center gap-2 py-1 pr-4 pl-2 text-ink data-[highlighted]:bg-steer-soft"
          >
            {#snippet children({ checked })}
              <span class="w-3.5"
                >{#if checked}<CheckIcon size={13} />{/if}</span
              >
              <span>{label}</span>
              {#if detail}<span class="ml-auto pl-4 text-ink-3">{detail}</span>{/if}
            {/snippet}
          </DropdownMenu.RadioItem>
        {:else}
          <p class="px-3 py-1 text-ink-3">Nothing matches.</p>
        {/each}
        {#if choice.more}
          <p class="border-t border-rule px-3 py-1 text-ink-3">
            {formatCount(choice.more)} more: press <kbd class="num">/</kbd> and type a part of the name.
          </p>
        {/if}
      </DropdownMenu.RadioGroup>
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
