import { browser } from '$app/environment';

type Theme = 'light' | 'dark';

/** What the reader chose for this browser: kept there, never in a link. */
class Preferences {
  theme = $state<Theme>(browser && document.documentElement.dataset.theme === 'dark' ? 'dark' : 'light');
  readingOpen = $state(!browser || localStorage.getItem('tromix-reading') !== 'closed');

  /** Counters are laid under pictures over time. */
  countersBelow = $state(browser && localStorage.getItem('tromix-counters') === 'below');

  /** How a place in a source file is opened in the developer's editor; '' for none. */
  editorTemplate = $state(browser ? (localStorage.getItem('tromix-editor') ?? '') : '');

  setEditorTemplate(template: string): void {
    this.editorTemplate = template;
    localStorage.setItem('tromix-editor', template);
  }

  setTheme(theme: Theme): void {
    this.theme = theme;
    document.documentElement.dataset.theme = theme;
    localStorage.setItem('tromix-theme', theme);
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
