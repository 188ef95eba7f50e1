<script lang="ts">
  import { invalidate } from '$app/navigation';
  import type { FailureMark } from '@tromix/core/failures/mark-state';
  import { toast } from 'svelte-sonner';
  import type { FailureGroup } from '$lib/server/queries/failures';
  import { send } from '$lib/ui/frame/send';
  import Labelled from '$lib/ui/kit/Labelled.svelte';
  import NumberField from '$lib/ui/kit/NumberField.svelte';

  /** What is decided about a group of failures: fixed in a release, ignored for a while, or open. Each can be taken back. */
  interface Props {
    group: Pick<FailureGroup, 'id' | 'mark' | 'state'>;
    /** Releases that show it, newest first by use. */
    releases: readonly string[];
  }
  type Decision = Pick<FailureMark, 'kind' | 'release' | 'moreTimes'>;
  let { group, releases }: Props = $props();
  let asking = $state<'' | FailureMark['kind']>('');
  let release = $state('');
  let moreTimes = $state(100);

  const url = $derived(`/api/failures/${group.id}/mark`);
  async function put(mark: Decision | null): Promise<void> {
    await (mark ? send('POST', url, mark) : send('DELETE', url));
    await invalidate('tromix:data');
  }
  async function decide(mark: Decision | null, said: string): Promise<void> {
    const before = group.mark;
    try {
      await put(mark);
      asking = '';
      toast.success(said, {
        action: { label: 'Undo', onClick: () => void decide(before, 'It is as it was.') }
      });
    } catch (cause) {
      toast.error((cause as Error).message);
    }
  }
</script>

<span class="flex flex-none gap-1.5">
  <button
    class="button"
    aria-expanded={asking === 'fixed'}
    onclick={() => (asking = asking === 'fixed' ? '' : 'fixed')}>Mark as fixed…</button
  >
  <button
    class="button"
    aria-expanded={asking === 'ignored'}
    onclick={() => (asking = asking === 'ignored' ? '' : 'ignored')}>Ignore…</button
  >
  {#if group.mark}<button class="button" onclick={() => void decide(null, 'It is open again.')}
      >Open again</button
    >{/if}
</span>
{#if asking}
  <form
    class="flex w-full flex-wrap items-end gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      void (asking === 'fixed'
        ? decide(
            { kind: 'fixed', release, moreTimes: 0 },
            `Marked as fixed in ${release ? `release ${release}` : 'the next release'}.`
          )
        : decide({ kind: 'ignored', release: '', moreTimes }, 'It is ignored until it comes back.'));
    }}
  >
    {#if asking === 'fixed'}
      <Labelled label="fixed in"
        ><select class="field" bind:value={release}
          ><option value="">the next release</option>{#each releases as name (name)}<option value={name}
              >release {name}</option
            >{/each}</select
        ></Labelled
      >
    {:else}
      <NumberField
        label="until it happens so many times more, or in a new release"
        bind:value={moreTimes}
        min={0}
      />
    {/if}
    <button class="button button-solid" type="submit">{asking === 'fixed' ? 'Mark it' : 'Ignore it'}</button>
    <button class="button" type="button" onclick={() => (asking = '')}>Cancel</button>
  </form>
{/if}
