<script lang="ts">
  import { readCurl, type ReadSteps } from '@tromix/core/load/curl';
  import { readHar } from '@tromix/core/load/har';
  import Labelled from '$lib/ui/kit/Labelled.svelte';

  /** Steps from a line of curl that is pasted, or from an HTTP Archive. */
  let { onsteps }: { onsteps: (steps: (ReadSteps & { ok: true })['steps'], notes: string[]) => void } =
    $props();
  let line = $state('');
  let refusal = $state('');

  function take(read: ReadSteps): void {
    refusal = read.ok ? '' : read.message;
    if (read.ok) onsteps(read.steps, read.notes);
  }
</script>

<div class="flex flex-wrap items-end gap-3">
  <Labelled label="a line of curl" grows
    ><textarea
      class="min-w-0 field num"
      rows="2"
      bind:value={line}
      spellcheck="false"
      placeholder="curl 'http://127.0.0.1:3000/entries' -H 'content-type: application/json' -d '&lbrace;&quot;pilot&quot;: 7&rbrace;'"
    ></textarea></Labelled
  >
  <button type="button" class="button" disabled={line.trim() === ''} onclick={() => take(readCurl(line))}
    >Take its request</button
  >
  <Labelled label="or an HTTP Archive (HAR)"
    ><input
      type="file"
      class="text-[11px]"
      accept=".har,application/json"
      onchange={async (event) => {
        const file = event.currentTarget.files?.[0];
        if (file) take(readHar(await file.text()));
      }}
    /></Labelled
  >
</div>
{#if refusal}<p class="mt-1 text-alarm" role="alert">{refusal}</p>{/if}
