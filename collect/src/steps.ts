import { STEP, STEP_EVENT } from '@tromix/core/pages/wire';
import type { SentEvent } from './otlp';

const MAX_LABEL = 60;
const CONTROLS =
  'button, a, summary, label, [role=button], [role=link], [role=tab], [role=menuitem], input, select';
/** In these people write: their content is never read. */
const WRITTEN_IN =
  'textarea, select, [contenteditable], input:not([type=button]):not([type=submit]):not([type=reset])';

/** What a control is called: its label as assistive technology reads it, never what was typed into it. An element marked `data-private` is told by its kind alone. */
export function labelOf(element: Element): string {
  const kind = element.tagName.toLowerCase();
  if (element.closest('[data-private]')) return kind;
  const named = element.getAttribute('aria-label') ?? element.getAttribute('title');
  if (named) return short(named);
  if (element.matches(WRITTEN_IN)) return short(element.getAttribute('name') ?? kind);
  const value = element instanceof HTMLInputElement ? element.value : element.textContent;
  return short(value ?? '') || kind;
}

const short = (text: string): string => text.trim().replace(/\s+/g, ' ').slice(0, MAX_LABEL);

/** Notes clicks on controls, forms that are sent, and navigation in the page. */
export function watchSteps(note: (event: SentEvent) => void): void {
  const step = (kind: string, label: string, atMs = performance.now()): void =>
    note({ name: STEP_EVENT, atMs, attributes: { [STEP.kind]: kind, [STEP.label]: label } });
  addEventListener(
    'click',
    ({ target, timeStamp, isTrusted }) => {
      const control = target instanceof Element ? target.closest(CONTROLS) : null;
      // What a page clicks itself is no step of a person; a click on a label comes again on what it is of.
      if (control && isTrusted && !control.matches('label:has(input, select, textarea)'))
        step('click', labelOf(control), timeStamp);
    },
    { capture: true, passive: true }
  );
  addEventListener(
    'submit',
    ({ target, timeStamp }) => {
      if (target instanceof HTMLFormElement)
        step('submit', target.getAttribute('aria-label') ?? target.getAttribute('name') ?? 'form', timeStamp);
    },
    { capture: true, passive: true }
  );
  watchNavigation((path) => step('navigate', path));
}

/** Calls back with the path of each navigation within the page. */
function watchNavigation(onPath: (path: string) => void): void {
  let last = location.pathname;
  const look = (): void => {
    if (location.pathname === last) return;
    last = location.pathname;
    onPath(last);
  };
  addEventListener('popstate', look);
  for (const name of ['pushState', 'replaceState'] as const) {
    const before = history[name].bind(history);
    history[name] = (...args) => {
      before(...args);
      look();
    };
  }
}
