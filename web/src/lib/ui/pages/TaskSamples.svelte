<script lang="ts">
  import { formatDuration } from '@tromix/core/text/format';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { samplesOf, type ProfileStretch } from '$lib/ui/profile/stretch-samples';

  /** What the page's profile says of a task. */
  let { stretch }: { stretch: ProfileStretch } = $props();
  const asked = resource(
    () => stretch,
    async (of) => (await samplesOf([of]))[0]
  );
</script>

<!-- Room for it while the profile is read. -->
<div class="mt-1 min-h-[3lh]">
  {#if asked.error}<p class="text-ink-3">{asked.error}</p>
  {:else if asked.value && asked.value.samples > 0}
    <p data-testid="task-samples">
      By the page’s own profile it computed for {formatDuration(asked.value.busyNs)}{asked.value.top
        ? `, most of it in ${asked.value.top}`
        : ''}.
    </p>
  {:else if asked.value}<p class="text-ink-3">The page’s profile has no sample in it.</p>{/if}
</div>
