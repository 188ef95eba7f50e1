<script lang="ts">
  import { AlertDialog } from 'bits-ui';

  interface Props {
    /** What it says before something is done that cannot be taken back; '' while nothing is asked. */
    question: string;
    title: string;
    /** What the button that does it says. */
    action: string;
    onconfirm: () => void;
  }
  let { question = $bindable(), title, action, onconfirm }: Props = $props();
</script>

<AlertDialog.Root bind:open={() => question !== '', (open) => !open && (question = '')}>
  <AlertDialog.Portal>
    <AlertDialog.Overlay class="fixed inset-0 z-40 bg-ink/20" />
    <AlertDialog.Content class="fixed top-24 left-1/2 pop w-[460px] -translate-x-1/2 p-4">
      <AlertDialog.Title class="mb-2 text-[15px] font-semibold">{title}</AlertDialog.Title>
      <AlertDialog.Description class="text-ink-2">{question}</AlertDialog.Description>
      <div class="mt-4 flex justify-end gap-2">
        <AlertDialog.Cancel class="button">Leave it</AlertDialog.Cancel>
        <AlertDialog.Action class="button button-solid" onclick={onconfirm}>{action}</AlertDialog.Action>
      </div>
    </AlertDialog.Content>
  </AlertDialog.Portal>
</AlertDialog.Root>
