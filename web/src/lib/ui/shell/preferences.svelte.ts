import { browser } from '$app/environment';

type Theme = 'light' | 'dark';

/** How much of the height a table below a picture may have, percent. */
export const LEAST_BELOW = 15;
export const MOST_BELOW = 80;
const USUAL_BELOW = 36;
const within = (percent: number): number =>
  Number.isFinite(percent) ? Math.min(MOST_BELOW, Math.max(LEAST_BELOW, percent)) : USUAL_BELOW;

/** What the reader chose for this browser: kept there, never in a link. */
class Preferences {
  theme = $state<Theme>(browser && document.documentElement.dataset.theme === 'dark' ? 'dark' : 'light');
  readingOpen = $state(!browser || localStorage.getItem('tromix-reading') !== 'closed');

  /** Counters are laid under pictures over time. */
  countersBelow = $state(browser && localStorage.getItem('tromix-counters') === 'below');

  /** How a place in a source file is opened in the developer's editor; '' for none. */
  editorTemplate = $state(browser ? (localStorage.getItem('tromix-editor') ?? '') : '');

  /** How much of the height the table below a flame picture has, percent. */
  tableBelow = $state(within(Number((browser && localStorage.getItem('tromix-table-below')) || USUAL_BELOW)));

  setTableBelow(percent: number): void {
    this.tableBelow = within(percent);
    localStorage.setItem('tromix-table-below', String(Math.round(this.tableBelow)));
  }

  setEditorTemplate(template: string): void {
    this.editorTemplate = template;
    localStorage.setItem('tromix-editor', template);
  }

  setTheme(theme: Theme): void {
    this.#show(theme);
    localStorage.setItem('tromix-theme', theme);
  }

  #show(theme: Theme): void {
    this.theme = theme;
    document.documentElement.dataset.theme = theme;
  }

  /** Goes with the system from light to dark, for as long as no theme was chosen. @returns ends it */
  followSystem(): () => void {
    const system = matchMedia('(prefers-color-scheme: dark)');
    const follow = (): void => {
      if (localStorage.getItem('tromix-theme') === null) this.#show(system.matches ? 'dark' : 'light');
    };
    system.addEventListener('change', follow);
    return () => system.removeEventListener('change', follow);
  }

  toggleCounters(): void {
    this.countersBelow = !this.countersBelow;
    localStorage.setItem('tromix-counters', this.countersBelow ? 'below' : 'away');
  }

  toggleReading(): void {
    this.readingOpen = !this.readingOpen;
    localStorage.setItem('tromix-reading', this.readingOpen ? 'open' : 'closed');
  }
}

export const preferences = new Preferences();
