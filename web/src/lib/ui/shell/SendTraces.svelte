<script lang="ts">
  import { page } from '$app/state';
  import { sdkSettings } from './sending';
  const lines = $derived(sdkSettings(page.url.origin, page.data.sendsToken === true));
</script>

<p>Point any OpenTelemetry SDK or collector here with these {lines.length === 4 ? 'four' : 'three'} lines:</p>
<pre
  class="mb-2 rounded-[3px] border border-rule bg-paper p-2 num break-all whitespace-pre-wrap text-ink select-all">{lines.join(
    '\n'
  )}</pre>
