<script lang="ts">
  import { enhance } from '$app/forms';
  import type { ActionData } from './$types';

  let { form }: { form: ActionData } = $props();
  /** Another machine's page over plain http: whoever is on the way can read along. */
  const readable = !window.isSecureContext;
</script>

<main class="grid h-screen place-items-center">
  <form method="POST" use:enhance class="w-96 rounded border border-rule bg-sheet recorder-grid p-6">
    <h1 class="mb-3 text-[15px]">Sign in to Tromix</h1>
    <label class="mb-1 block text-ink-2" for="token">Access token</label>
    <input
      id="token"
      name="token"
      type="password"
      class="mb-2 w-full field"
      autocomplete="current-password"
      required
      aria-describedby="token-error"
    />
    {#if form?.message}<p id="token-error" class="mb-2 text-alarm" role="alert">{form.message}</p>{/if}
    <button class="button button-solid">Sign in</button>
    {#if readable}
      <p class="mt-3 border-l-3 border-alarm pl-2 text-ink-2" role="note">
        This connection is not encrypted: the token, and everything shown here, can be read in transit. Use it
        only in a network you trust, or put Tromix behind a proxy that speaks https.
      </p>
    {/if}
    <p class="mt-3 text-ink-3">It is the value of TROMIX_TOKEN that the server was started with.</p>
  </form>
</main>
