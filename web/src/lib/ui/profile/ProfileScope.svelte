<script lang="ts">
  import { formatDuration } from '@tromix/core/text/format';
  import type { EvidenceItem } from '$lib/server/queries/evidence';
  import { exactTime, shortTime } from '$lib/ui/kit/time';
  import type { OpenedProfile } from '$lib/workers/profile.worker';
  import type { Cut } from './profile-state';

  /** What of which process is looked at, and over what time. */
  interface Props {
    item: EvidenceItem<'profile'>;
    opened: OpenedProfile | null;
    selection: Cut | null;
    nowMs: number;
    onwhole: () => void;
  }
  let { item, opened, selection, nowMs, onwhole }: Props = $props();

  const SUBJECTS: Record<OpenedProfile['valueType'], string> = {
    cpu: 'CPU samples',
    wall: 'samples',
    allocation: 'allocations',
    memory: 'memory in use',
    waiting: 'waiting',
    other: 'samples'
  };
  const subject = $derived(
    opened?.valueType === 'cpu' && opened.unit === 'count' ? 'stacks' : SUBJECTS[opened?.valueType ?? 'cpu']
  );
  const recordedNs = $derived(item.durationNs || (item.summary?.recordedNs ?? 0));
  const beganMs = $derived(item.startedAtUs === null ? null : item.startedAtUs / 1000);
  const at = (ns: number): string => (beganMs === null ? formatDuration(ns) : exactTime(beganMs + ns / 1e6));
</script>

{#snippet strong(text: string | number, figures = false)}<b
    class="font-semibold text-ink {figures ? 'num' : ''}">{text}</b
  >{/snippet}

<span>
  Looking at {@render strong(subject)} of
  {@render strong(item.service || item.name || 'an unnamed process')}{#if item.pid}, process {@render strong(
      item.pid
    )}{/if}{#if item.host}&nbsp;on {@render strong(item.host)}{/if}{#if selection}, from {@render strong(
      at(selection.from),
      true
    )} to {@render strong(at(selection.to), true)}{:else if recordedNs > 0}, all {@render strong(
      formatDuration(recordedNs),
      true
    )}{#if beganMs !== null}&nbsp;from {@render strong(shortTime(beganMs, nowMs), true)}{/if}{/if}
</span>
{#if selection}<button class="ml-1 button" onclick={onwhole}>Whole profile</button>{/if}
