<script lang="ts">
  import { evidenceKindOf, isDump } from '$lib/evidence/recorded-kind';
  import { formatDuration } from '@tromix/core/text/format';
  import type { Recording } from '$lib/server/queries/recordings';
  import { NO_PICKS } from '$lib/scope';
  import { dateTime } from '$lib/ui/kit/time';
  import { evidenceLink } from '$lib/ui/shell/links';
  import { costWords, KIND_WORDS, nameOf } from './recording-words';

  interface Props {
    recordings: readonly Recording[];
    /** Ends one before its time; `stop` keeps what there is. */
    onend: (id: string, how: 'stop' | 'cancel') => void;
  }
  let { recordings, onend }: Props = $props();
  let now = $state(Date.now());
  const active = $derived(recordings.some(({ state }) => state === 'recording' || state === 'saving'));
  $effect(() => {
    if (!active) return;
    const timer = setInterval(() => (now = Date.now()), 250);
    return () => clearInterval(timer);
  });
  const progress = (recording: Recording): number =>
    Math.min(1, Math.max(0, (now * 1000 - recording.startedAtUs) / ((recording.seconds + 1) * 1e6)));
</script>

<section class="px-4 py-3" aria-label="Recordings">
  <h2 class="mb-1 heading">Recordings</h2>
  {#if recordings.length === 0}<p class="text-ink-3">None yet.</p>{/if}
  <table class="w-full border-collapse">
    <tbody>
      {#each recordings as recording (recording.id)}
        <tr class="border-b border-grid whitespace-nowrap">
          <td class="px-2 py-1.5 num text-ink-2">{dateTime(recording.startedAtUs / 1000)}</td>
          <td class="px-2 font-[560]">{nameOf(recording)}</td>
          <td class="px-2 text-ink-2"
            >{KIND_WORDS[recording.kind]}{isDump(recording.kind)
              ? ''
              : `, ${formatDuration(recording.seconds * 1e9)}`}</td
          >
          <td class="w-full px-2">
            {#if recording.state === 'recording'}
              <span class="flex items-center gap-2">
                <span
                  class="inline-block h-2 w-40 overflow-hidden rounded-[2px] border border-rule bg-paper"
                  role="progressbar"
                  aria-label="Recorded"
                  aria-valuemin="0"
                  aria-valuemax="100"
                  aria-valuenow={Math.round(progress(recording) * 100)}
                  ><i class="block h-full bg-pen" style:width="{progress(recording) * 100}%"></i></span
                >
                {#if !isDump(recording.kind)}<button
                    class="button px-1.5 py-0"
                    onclick={() => onend(recording.id, 'stop')}>Stop and keep</button
                  >{/if}
                <button class="button px-1.5 py-0" onclick={() => onend(recording.id, 'cancel')}
                  >Cancel</button
                >
              </span>
            {:else if recording.state === 'saving'}<span role="status">Reading the samples…</span>
            {:else if recording.state === 'saved'}
              <span class="flex items-center gap-2"
                ><a
                  class="button px-1.5 py-0"
                  href={evidenceLink(
                    { kind: evidenceKindOf(recording.kind), id: recording.evidenceId },
                    NO_PICKS
                  )}>Open the {isDump(recording.kind) ? 'dump' : 'profile'}</a
                >
                <span class="text-[11px] whitespace-normal text-ink-2">{costWords(recording)}</span></span
              >
            {:else if recording.state === 'cancelled'}<span class="text-ink-3">cancelled</span>
            {:else}<span class="whitespace-normal text-alarm">{recording.message}</span>{/if}
            {#if recording.message && recording.state !== 'failed' && recording.state !== 'cancelled'}<span
                class="text-[11px] whitespace-normal text-ink-2">{recording.message}</span
              >{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</section>
