<script lang="ts">
  import type { WatchNews } from '$lib/server/watch/news';
  import { browserNotices } from './browser-notices.svelte';

  /** Shows what comes on as notices of the browser, while it is asked to: also in a tab that is not in sight. */
  const EVERY_MS = 20_000;

  async function look(): Promise<void> {
    const response = await fetch(`/api/watches/news?after=${browserNotices.seenMinute}`);
    if (!response.ok) return;
    const news = (await response.json()) as WatchNews[];
    for (const { id, watchId, name, sentence, onMinute } of news) {
      if (!browserNotices.claim(onMinute, id)) continue;
      const notice = new Notification(name, { body: sentence, tag: id });
      notice.onclick = () => {
        window.focus();
        location.assign(`/watches/${watchId}`);
      };
    }
  }
  $effect(() => {
    if (!browserNotices.isOn) return;
    const tick = (): void => void look().catch(() => undefined);
    tick();
    const timer = setInterval(tick, EVERY_MS);
    return () => clearInterval(timer);
  });
</script>
