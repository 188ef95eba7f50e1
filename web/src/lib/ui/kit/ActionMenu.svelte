<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import { tick } from 'svelte';
  import type { Action } from './actions';

  let shown = $state(false);
  let actions = $state.raw<Action[]>([]);
  let anchor = $state.raw<{ getBoundingClientRect: () => DOMRect } | null>(null);
  let from: HTMLElement | null = null;

  /** Opens the menu at the pointer, or at the element when the keyboard asked. */
  export async function open(event: MouseEvent, offered: Action[]): Promise<void> {
    if (offered.length === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const element = event.currentTarget as HTMLElement;
    const atPointer = event.type === 'contextmenu' && event.button === 2;
    const place = atPointer
      ? new DOMRect(event.clientX, event.clientY, 0, 0)
      : element.getBoundingClientRect();
    from = document.activeElement as HTMLElement | null;
    shown = false;
    await tick();
    actions = offered;
    anchor = { getBoundingClientRect: () => place };
    shown = true;
  }
</script>

<DropdownMenu.Root bind:open={shown}>
  <DropdownMenu.Portal>
    <DropdownMenu.Content
      class="pop min-w-48 py-1"
      align="start"
      sideOffset={4}
      customAnchor={anchor}
      aria-label="More"
      onCloseAutoFocus={(event) => {
        event.preventDefault();
        from?.focus();
      }}
    >
      {#each actions as { name, href, run, download } (name)}
        <DropdownMenu.Item onSelect={run}>
          {#snippet child({ props })}
            <svelte:element
              this={href ? 'a' : 'div'}
              {...props}
              {href}
              download={download ? '' : undefined}
              class="block cursor-pointer px-3 py-1 text-ink data-[highlighted]:bg-steer-soft"
              >{name}</svelte:element
            >
          {/snippet}
        </DropdownMenu.Item>
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
