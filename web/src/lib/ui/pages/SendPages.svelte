<script lang="ts">
  import { page } from '$app/state';
  import { pageTag } from '$lib/ui/connect/ways';
  import { copyText } from '$lib/ui/kit/actions';

  /** How page loads get here. */
  const tag = $derived(pageTag(page.url.origin, page.data.sendsToken === true));
</script>

<p>
  Put this into the head of your pages. Pages on the loopback may send at once; others are named by
  TROMIX_COLLECT_ORIGINS.
</p>
<p><code class="block rounded-[3px] border border-rule bg-paper p-2 num break-all select-all">{tag}</code></p>
<p class="flex flex-wrap gap-1.5">
  <button class="button button-solid" onclick={() => void copyText(tag)}>Copy it</button>
  <a class="button" href="/evidence">Open an HTTP Archive (HAR)</a>
  <a class="button" href="/recorder">Record a page</a>
</p>
