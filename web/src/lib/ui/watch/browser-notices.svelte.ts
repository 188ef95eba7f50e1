import { toast } from 'svelte-sonner';

const KEY = 'tromix-browser-notices';
const SEEN = 'tromix-notices-seen';
const isThere = typeof Notification !== 'undefined';

let wanted = $state(typeof localStorage !== 'undefined' && localStorage.getItem(KEY) === '1');
let allowed = $state(isThere && Notification.permission === 'granted');

/** Notices of the browser: whether they are wanted and allowed, and what was shown already, over all tabs. */
export const browserNotices = {
  get isOn(): boolean {
    return wanted && allowed;
  },
  /** The last minute of which notices were shown. */
  get seenMinute(): number {
    return Number(localStorage.getItem(SEEN)) || Math.floor(Date.now() / 60_000) - 1;
  },
  /** Of several tabs one shows a notice. @returns whether this one does */
  claim(onMinute: number, id: string): boolean {
    const shown = `${SEEN}-${id}`;
    if (sessionStorage.getItem(shown) || localStorage.getItem('tromix-notice-last') === id) return false;
    sessionStorage.setItem(shown, '1');
    localStorage.setItem('tromix-notice-last', id);
    localStorage.setItem(SEEN, String(Math.max(onMinute - 1, this.seenMinute)));
    return true;
  },
  async toggle(): Promise<void> {
    if (this.isOn) {
      wanted = false;
      localStorage.removeItem(KEY);
      return;
    }
    if (!isThere) return void toast.error('This browser shows no notices.');
    allowed = (await Notification.requestPermission()) === 'granted';
    wanted = allowed;
    if (!allowed) return void toast.error('The browser does not allow notices for this address.');
    localStorage.setItem(KEY, '1');
    localStorage.setItem(SEEN, String(Math.floor(Date.now() / 60_000) - 1));
  }
};
