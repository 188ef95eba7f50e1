<script lang="ts">
  /** What sends the counters of a host. */
</script>

<p>
  <code class="num">npx tromix host</code> sends them from the machine it runs on, every 10 seconds; any
  OpenTelemetry collector or SDK does as well, by OTLP to <code class="num">/v1/metrics</code>.
</p>
<pre
  class="rounded-[3px] border border-rule bg-paper p-2 num text-[11px] break-all whitespace-pre-wrap">npx tromix host --name quay-2</pre>
<p class="text-[11px] text-ink-3">
  Programs started with <code class="num">tromix run</code> send what their runtime says of itself: event loop,
  heap, collector.
</p>
