<script lang="ts">
  import { formatBytes, formatCount, formatDuration } from '@tromix/core/text/format';
  import type { Recording } from '$lib/server/queries/recordings';

  /** What a recording costs its process, as far as that is known beforehand. */
  interface Props {
    kind: Recording['kind'];
    repeat: 'once' | 'time' | 'watch' | 'always';
    calls: 'no' | 'beside' | 'alone';
    seconds: number;
    /** Between samples: microseconds, of allocation bytes. */
    interval: Record<Recording['kind'], number>;
    /** Newest slices of a plan whose samples are kept. */
    keptSlices: number;
  }
  let { kind, repeat, calls, seconds, interval, keptSlices }: Props = $props();

  /** V8 writes a sample as its node's number and a time delta. */
  const SAMPLE_BYTES = 10;
  const samples = $derived(Math.round((seconds * 1e6) / Math.max(1, interval.cpu)));
</script>

<h3 class="mt-3 mb-1 heading">What it costs</h3>
<p class="text-ink-2">
  {#if repeat === 'always'}
    A slice of each minute at a low rate. What it costs is measured as it goes; where that is more than its
    budget it records half as often, and in the end stops. Its sums stay 30 days, by function, endpoint and
    release; of the newest {keptSlices} slices all samples do.
  {:else if kind === 'cpu'}
    At {formatDuration(interval.cpu * 1000)} this is about {formatCount(samples)} samples and {formatBytes(
      samples * SAMPLE_BYTES
    )}. Each sample stops the program for a moment: ten times finer is ten times the file and ten times the
    stops. The same piece of work is timed without and with sampling first: what it costs is shown below.
    {#if calls !== 'no'}
      <b class="font-[620]">Counting calls</b> notes each call of each JavaScript function of the main thread. A
      service that mostly waits hardly notices; one that computes in small functions may take several times as long
      while it is counted. Count for seconds, not minutes.
    {/if}
  {:else if kind === 'threads'}
    A thread dump is Node.js’s diagnostic report: what the process does at this moment, also in the middle of
    a computation, within milliseconds.
  {:else if kind === 'heap'}
    A heap dump <b class="font-[620]">stops the process</b> while it is written: 5 to 12 s and 0.3 to 1.5 GB of
    memory for a million objects. Where that may be 10 s or more, or more than is free, its objects are counted
    and you are asked to confirm. How long it took is shown below.
  {:else}
    About one object in {formatBytes(interval.allocation)} allocated is noted with its stack; also those freed again.
  {/if}
</p>
