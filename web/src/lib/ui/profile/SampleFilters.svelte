<script lang="ts">
  import { formatShare } from '@tromix/core/text/format';
  import type { Portion } from '@tromix/core/profile/portions';
  import type { OpenedProfile } from '$lib/workers/profile.worker';
  import type { ProfileState } from './profile-state';

  /** Which of the measured things weighs, and of which thread and labels samples count. */
  interface Props {
    opened: OpenedProfile;
    shown: ProfileState;
    go: (change: Partial<ProfileState>) => Promise<void>;
  }
  let { opened, shown, go }: Props = $props();

  /** Values of one label that are listed, the heaviest first: ids of requests may be very many. */
  const MOST_LISTED = 100;
  const share = (portions: readonly Portion[], { weight }: Portion): string => {
    const sum = portions.reduce((total, one) => total + one.weight, 0);
    return sum > 0 ? `, ${formatShare(weight / sum)}` : '';
  };
  const chosen = (key: string): string => shown.labels.find((label) => label.key === key)?.value ?? '';
  function listed(key: string, values: readonly Portion[]): Portion[] {
    const heaviest = values.toSorted((a, b) => b.weight - a.weight);
    return heaviest.filter(({ name }, i) => i < MOST_LISTED || name === chosen(key));
  }
  function choose(key: string, value: string): void {
    const others = shown.labels.filter((label) => label.key !== key);
    void go({ labels: value === '' ? others : [...others, { key, value }] });
  }
</script>

{#if opened.measures.length > 1}
  <label
    >weigh by <select
      class="field py-0.5"
      value={opened.measure ?? 'count'}
      onchange={(event) => void go({ measure: event.currentTarget.value, cut: null })}
    >
      {#each opened.measures as name (name)}<option value={name}>{name.replaceAll('_', ' ')}</option>{/each}
    </select></label
  >
{/if}
{#if opened.threads.length > 1}
  <label
    >thread <select
      class="max-w-56 field py-0.5"
      value={String(shown.thread)}
      onchange={(event) => void go({ thread: Number(event.currentTarget.value) })}
    >
      <option value="-1">all {opened.threads.length}</option>
      {#each opened.threads as thread, i (i)}<option value={String(i)}
          >{thread.name}{share(opened.threads, thread)}</option
        >{/each}
    </select></label
  >
{/if}
{#each opened.labels as { key, values } (key)}
  {@const all = listed(key, values)}
  <label
    >{key}
    <select
      class="max-w-56 field py-0.5"
      value={chosen(key)}
      onchange={(event) => choose(key, event.currentTarget.value)}
    >
      <option value=""
        >any{all.length < values.length ? ` (the ${all.length} heaviest of ${values.length})` : ''}</option
      >
      {#each all as value (value.name)}<option value={value.name}>{value.name}{share(values, value)}</option
        >{/each}
    </select></label
  >
{/each}
