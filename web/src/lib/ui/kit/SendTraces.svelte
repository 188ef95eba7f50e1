<script lang="ts">
  import { page } from '$app/state';
  const lines = $derived(
    `OTEL_EXPORTER_OTLP_ENDPOINT=${page.url.origin}\nOTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf\nOTEL_SERVICE_NAME=your-service`
  );
</script>

<p>Point any OpenTelemetry SDK or collector here with these three lines:</p>
<pre
  class="mb-2 rounded-[3px] border border-rule bg-paper p-2 num break-all whitespace-pre-wrap text-ink select-all">{lines}</pre>
